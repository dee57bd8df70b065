"""What a PDF does to each picture: kept, trimmed or light. Figures are arithmetic."""

from dataclasses import replace

import pytest

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.placing import Content, Placement, Source
from harnet.core.measure.geometry import Box
from harnet.core.output.pdf_settings import (
    PdfSettings,
    PictureMode,
    checked_settings,
    settings_as_values,
    settings_from_values,
)
from harnet.core.output.treatment import Treatment, TreatmentKind, downsampled, treatment_of
from harnet.core.pictures.picture import Colour, Facts, Kind

JPEG = Facts(
    Kind.RASTER, "jpeg", 1200, 800, None, None, Colour.RGB, 8, 3, False, True, None, 1, 9000
)
PNG = replace(JPEG, format="png", lossy=False)
TRIM = PdfSettings(PictureMode.TRIM, 300, 1.5, 90)
LIGHT = PdfSettings(PictureMode.LIGHT, 150, quality=70)


def at(ppi_x, ppi_y=None, facts=JPEG):
    source = Source(1200, 800, is_vector=facts.is_vector)
    content = Content(72 / ppi_x, 72 / (ppi_y or ppi_x))
    return Placement(source, Box(0, 0, 100, 100), content)


@pytest.mark.parametrize(
    "facts, ppi, settings, treatment",
    [
        (JPEG, 2000, PdfSettings(), Treatment(TreatmentKind.PASSES, 1200, 800)),
        (PNG, 2000, PdfSettings(), Treatment(TreatmentKind.LOSSLESS, 1200, 800)),
        # The threshold is 1.5 × 300 = 450 ppi; at 450 nothing is above it.
        (JPEG, 450, TRIM, Treatment(TreatmentKind.PASSES, 1200, 800)),
        # 1200 px at 451 ppi are 2.6608 in; at 300 ppi 798 px.
        (JPEG, 451, TRIM, Treatment(TreatmentKind.DOWNSAMPLED, 798, 532, 90)),
        (PNG, 600, TRIM, Treatment(TreatmentKind.DOWNSAMPLED, 600, 400, 90)),
        (
            PNG,
            600,
            replace(TRIM, quality=None),
            Treatment(TreatmentKind.DOWNSAMPLED, 600, 400, None),
        ),
        (PNG, 100, TRIM, Treatment(TreatmentKind.LOSSLESS, 1200, 800)),
        (JPEG, 600, LIGHT, Treatment(TreatmentKind.DOWNSAMPLED, 300, 200, 70)),
        (PNG, 100, LIGHT, Treatment(TreatmentKind.COMPRESSED, 1200, 800, 70)),
        (JPEG, 100, LIGHT, Treatment(TreatmentKind.PASSES, 1200, 800)),
        # Inks, palettes and 1-bit art.
        (
            replace(PNG, colour=Colour.CMYK),
            600,
            TRIM,
            Treatment(TreatmentKind.DOWNSAMPLED, 600, 400, 90),
        ),
        (
            replace(PNG, colour=Colour.CMYK),
            100,
            LIGHT,
            Treatment(TreatmentKind.COMPRESSED, 1200, 800, 70),
        ),
        (
            replace(PNG, colour=Colour.PALETTE),
            600,
            LIGHT,
            Treatment(TreatmentKind.LOSSLESS, 1200, 800),
        ),
        (
            replace(PNG, colour=Colour.BILEVEL),
            6000,
            TRIM,
            Treatment(TreatmentKind.LOSSLESS, 1200, 800),
        ),
        (replace(JPEG, bits=12), 100, TRIM, Treatment(TreatmentKind.LOSSLESS, 1200, 800)),
    ],
)
def test_fates(facts, ppi, settings, treatment):
    assert treatment_of(facts, at(ppi), settings) == treatment


def test_an_uneven_picture_counts_by_its_poorer_axis():
    assert treatment_of(JPEG, at(440, 900), TRIM).action is TreatmentKind.PASSES
    # 1200 px at 600 ppi are 2 in, 800 px at 900 ppi 0.889 in.
    assert treatment_of(JPEG, at(600, 900), TRIM) == Treatment(
        TreatmentKind.DOWNSAMPLED, 600, 267, 90
    )


def test_vector_pictures_stay_vector():
    svg = replace(JPEG, kind=Kind.VECTOR, px_w=None, px_h=None, colour=Colour.VECTOR)
    assert treatment_of(svg, at(72, facts=svg), LIGHT).action is TreatmentKind.VECTOR


def test_a_picture_smaller_than_a_pixel_keeps_one():
    assert downsampled(JPEG, at(1e6), 300) == Treatment(TreatmentKind.DOWNSAMPLED, 1, 1, None)


def test_settings_survive_as_values():
    for settings in (PdfSettings(), TRIM, LIGHT, replace(TRIM, quality=None)):
        assert settings_from_values(settings_as_values(settings)) == settings


@pytest.mark.parametrize(
    "changes, says",
    [
        ({"to_ppi": 5}, "10 to 10 000 ppi"),
        ({"threshold": 0.9}, "threshold"),
        ({"quality": 0}, "quality"),
        ({"quality": 101}, "quality"),
    ],
)
def test_settings_that_make_no_sense(changes, says):
    with pytest.raises(ValueOutOfRange, match=says):
        checked_settings(replace(TRIM, **changes))
