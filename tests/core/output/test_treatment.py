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
    kind=Kind.RASTER,
    format="jpeg",
    px_w=1200,
    px_h=800,
    density_x=None,
    density_y=None,
    colour=Colour.RGB,
    bits=8,
    channels=3,
    alpha=False,
    lossy=True,
    icc=None,
    frames=1,
    size_bytes=9000,
)
PNG = replace(JPEG, format="png", lossy=False)
TRIM = PdfSettings(mode=PictureMode.TRIM, to_ppi=300, threshold=1.5, quality=90)
LIGHT = PdfSettings(mode=PictureMode.LIGHT, to_ppi=150, quality=70)


def at(ppi_x, ppi_y=None, facts=JPEG):
    source = Source(px_w=1200, px_h=800, is_vector=facts.is_vector)
    content = Content(72 / ppi_x, 72 / (ppi_y or ppi_x))
    return Placement(source=source, frame=Box(0, 0, 100, 100), content=content)


@pytest.mark.parametrize(
    "facts, ppi, settings, treatment",
    [
        (JPEG, 2000, PdfSettings(), Treatment(action=TreatmentKind.PASSES, px_w=1200, px_h=800)),
        (PNG, 2000, PdfSettings(), Treatment(action=TreatmentKind.LOSSLESS, px_w=1200, px_h=800)),
        # The threshold is 1.5 × 300 = 450 ppi; at 450 nothing is above it.
        (JPEG, 450, TRIM, Treatment(action=TreatmentKind.PASSES, px_w=1200, px_h=800)),
        # 1200 px at 451 ppi are 2.6608 in; at 300 ppi 798 px.
        (
            JPEG,
            451,
            TRIM,
            Treatment(action=TreatmentKind.DOWNSAMPLED, px_w=798, px_h=532, quality=90),
        ),
        (
            PNG,
            600,
            TRIM,
            Treatment(action=TreatmentKind.DOWNSAMPLED, px_w=600, px_h=400, quality=90),
        ),
        (
            PNG,
            600,
            replace(TRIM, quality=None),
            Treatment(action=TreatmentKind.DOWNSAMPLED, px_w=600, px_h=400, quality=None),
        ),
        (PNG, 100, TRIM, Treatment(action=TreatmentKind.LOSSLESS, px_w=1200, px_h=800)),
        (
            JPEG,
            600,
            LIGHT,
            Treatment(action=TreatmentKind.DOWNSAMPLED, px_w=300, px_h=200, quality=70),
        ),
        (
            PNG,
            100,
            LIGHT,
            Treatment(action=TreatmentKind.COMPRESSED, px_w=1200, px_h=800, quality=70),
        ),
        (JPEG, 100, LIGHT, Treatment(action=TreatmentKind.PASSES, px_w=1200, px_h=800)),
        # Inks, palettes and 1-bit art.
        (
            replace(PNG, colour=Colour.CMYK),
            600,
            TRIM,
            Treatment(action=TreatmentKind.DOWNSAMPLED, px_w=600, px_h=400, quality=90),
        ),
        (
            replace(PNG, colour=Colour.CMYK),
            100,
            LIGHT,
            Treatment(action=TreatmentKind.COMPRESSED, px_w=1200, px_h=800, quality=70),
        ),
        (
            replace(PNG, colour=Colour.PALETTE),
            600,
            LIGHT,
            Treatment(action=TreatmentKind.LOSSLESS, px_w=1200, px_h=800),
        ),
        (
            replace(PNG, colour=Colour.BILEVEL),
            6000,
            TRIM,
            Treatment(action=TreatmentKind.LOSSLESS, px_w=1200, px_h=800),
        ),
        (
            replace(JPEG, bits=12),
            100,
            TRIM,
            Treatment(action=TreatmentKind.LOSSLESS, px_w=1200, px_h=800),
        ),
    ],
)
def test_fates(facts, ppi, settings, treatment):
    assert treatment_of(facts, at(ppi), settings) == treatment


def test_an_uneven_picture_counts_by_its_poorer_axis():
    assert treatment_of(JPEG, at(440, 900), TRIM).action is TreatmentKind.PASSES
    # 1200 px at 600 ppi are 2 in, 800 px at 900 ppi 0.889 in.
    assert treatment_of(JPEG, at(600, 900), TRIM) == Treatment(
        action=TreatmentKind.DOWNSAMPLED, px_w=600, px_h=267, quality=90
    )


def test_vector_pictures_stay_vector():
    svg = replace(JPEG, kind=Kind.VECTOR, px_w=None, px_h=None, colour=Colour.VECTOR)
    assert treatment_of(svg, at(72, facts=svg), LIGHT).action is TreatmentKind.VECTOR


def test_a_picture_smaller_than_a_pixel_keeps_one():
    assert downsampled(JPEG, at(1e6), 300) == Treatment(
        action=TreatmentKind.DOWNSAMPLED, px_w=1, px_h=1, quality=None
    )


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
