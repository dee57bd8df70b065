"""Licences by their identifiers."""

import pytest

from harnet.core.pictures.rights import licence_from, tidied


@pytest.mark.parametrize(
    "text, identifier",
    [
        # SPDX identifiers and Creative Commons deed addresses, from memory
        ("https://creativecommons.org/licenses/by/4.0/", "CC-BY-4.0"),
        ("http://creativecommons.org/licenses/by-nc-sa/3.0/de/", "CC-BY-NC-SA-3.0"),
        ("https://creativecommons.org/publicdomain/zero/1.0/", "CC0-1.0"),
        ("CC BY-NC-ND 4.0", "CC-BY-NC-ND-4.0"),
        ("CC-BY-SA-4.0", "CC-BY-SA-4.0"),
        ("© the trust, CC BY 4.0", "CC-BY-4.0"),
        ("One print run,\n 5 000 copies ", "One print run, 5 000 copies"),
        ("", ""),
    ],
)
def test_a_licence_is_known_by_its_identifier(text, identifier):
    assert licence_from(text) == identifier


def test_texts_are_one_line_of_bounded_length():
    assert tidied("a\x00b\t c\n") == "a b c"
    assert len(tidied("x" * 5000)) == 300
