"""Rights in files, as exiftool, which knows the records by itself, wrote them there."""

import subprocess

import pytest
from PIL import Image

from harnet.core.pictures.rights import Rights
from harnet.media.facts.read import facts_of
from harnet.media.facts.rights import rights_in
from tests.support.pictures import photo


@pytest.fixture(params=["jpg", "tif", "png", "webp"])
def picture(request, tmp_path):
    path = tmp_path / f"a.{request.param}"
    Image.fromarray(photo(40, 30)).save(path)
    return path


def written(path, *tags):
    command = ["exiftool", "-q", "-q", "-overwrite_original", *tags, path]
    subprocess.run(command, check=True, capture_output=True)
    return rights_in(path, facts_of(path))


def test_a_file_that_says_nothing_states_nothing(picture):
    assert rights_in(picture, facts_of(picture)) == Rights()


def test_xmp(picture):
    found = written(
        picture,
        "-XMP-dc:Creator=I. Varga",
        "-XMP-dc:Source=Trust photographs",
        "-XMP-xmpRights:WebStatement=https://creativecommons.org/licenses/by-sa/4.0/",
    )
    assert found == Rights("CC-BY-SA-4.0", "I. Varga", "Trust photographs")


def test_the_first_creator_and_the_usage_terms(picture):
    found = written(
        picture,
        "-XMP-dc:Creator=I. Varga",
        "-XMP-dc:Creator=M. Oster",
        "-XMP-xmpRights:UsageTerms=One print run",
    )
    assert found == Rights("One print run", "I. Varga", "")


@pytest.mark.parametrize("ending", ["jpg", "tif"])
def test_iptc_records(tmp_path, ending):
    path = tmp_path / f"a.{ending}"
    Image.fromarray(photo(40, 30)).save(path)
    found = written(
        path,
        "-IPTC:CopyrightNotice=Tarnholm Light Trust, CC BY 4.0",
        "-IPTC:Credit=Tarnholm Light Trust",
        "-IPTC:Source=Archive, box 12",
        "-IPTC:By-line=I. Varga",
    )
    assert found == Rights("CC-BY-4.0", "I. Varga / Tarnholm Light Trust", "Archive, box 12")


@pytest.mark.parametrize(
    "tags, credit",
    [
        (["-XMP-dc:Rights=© 2019 Tarnholm Light Trust, all rights reserved"], "© 2019 Tarnholm"),
        (
            ["-XMP-dc:Rights=© Tarnholm Light Trust", "-XMP-dc:Creator=I. Varga"],
            "I. Varga",
        ),
    ],
)
def test_a_copyright_notice_is_no_licence(picture, tags, credit):
    found = written(picture, *tags)
    assert found.licence == "" and found.credit.startswith(credit)


def test_damaged_records_state_nothing(tmp_path):
    path = tmp_path / "a.jpg"
    Image.fromarray(photo(40, 30)).save(path)
    written(path, "-XMP-dc:Creator=I. Varga")
    data = path.read_bytes().replace(b"</rdf:RDF>", b"<rdf:RDF >")
    path.write_bytes(data)
    assert rights_in(path, facts_of(path)) == Rights()
