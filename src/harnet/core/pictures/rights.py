"""Rights in a picture: its licence, its credit line and where it came from."""

import re
from dataclasses import dataclass

COMMON_LICENCES = (
    "CC0-1.0",
    "CC-BY-4.0",
    "CC-BY-SA-4.0",
    "CC-BY-ND-4.0",
    "CC-BY-NC-4.0",
    "CC-BY-NC-SA-4.0",
    "CC-BY-NC-ND-4.0",
)
"""Identifiers of the SPDX licence list (from memory) that pictures usually carry."""
UNSTATED = "none stated"
_LONGEST = 300

_DEED = re.compile(
    r"creativecommons\.org/(?:licenses/(?P<kind>by(?:-nc)?(?:-sa|-nd)?)/(?P<version>\d\.\d)"
    r"|publicdomain/zero/(?P<zero>\d\.\d))",
    re.IGNORECASE,
)
_SPOKEN = re.compile(
    r"\bCC[ -](?P<kind>BY(?:[ -]NC)?(?:[ -](?:SA|ND))?)[ -](?P<version>\d\.\d)\b", re.IGNORECASE
)


@dataclass(frozen=True, slots=True)
class Rights:
    """What is known of a picture's rights; an empty text is not known.

    `licence` is an SPDX identifier where there is one, else free text; `credit` is the line to
    print; `origin` says where the picture came from.
    """

    licence: str = ""
    """An SPDX identifier where there is one, else in words."""
    credit: str = ""
    """The line to print beside it."""
    origin: str = ""
    """Where it is from."""

    @property
    def is_stated(self) -> bool:
        """Whether a licence is known."""
        return bool(self.licence)


def licence_from(text: str) -> str:
    """A licence as its SPDX identifier where the text names or links one, else the text tidied.

    >>> licence_from("https://creativecommons.org/licenses/by-sa/4.0/")
    'CC-BY-SA-4.0'
    >>> licence_from("Licensed CC BY 4.0 by the trust")
    'CC-BY-4.0'
    >>> licence_from(" One use,  one year ")
    'One use, one year'
    """
    return named_licence(text) or tidied(text)


def named_licence(text: str) -> str:
    """The SPDX identifier of a licence that a text names or links; empty where it does neither.

    >>> named_licence("© I. Varga, CC BY 4.0"), named_licence("© I. Varga, all rights reserved")
    ('CC-BY-4.0', '')
    """
    if deed := _DEED.search(text):
        if deed["zero"]:
            return f"CC0-{deed['zero']}"
        return f"CC-{deed['kind'].upper()}-{deed['version']}"
    if spoken := _SPOKEN.search(text):
        return f"CC-{spoken['kind'].upper().replace(' ', '-')}-{spoken['version']}"
    return ""


def credit_line(by_line: str, credit: str) -> str:
    """Who made a picture and who supplied it, in one line; neither twice.

    >>> credit_line("I. Varga", "Tarnholm Trust"), credit_line("I. Varga", "Photo: I. Varga")
    ('I. Varga / Tarnholm Trust', 'Photo: I. Varga')
    """
    if by_line and credit and by_line.lower() not in credit.lower():
        return f"{by_line} / {credit}"
    return credit or by_line


def tidied(text: str) -> str:
    """One line without needless spaces or control characters, not too long."""
    return " ".join("".join(char if char.isprintable() else " " for char in text).split())[
        :_LONGEST
    ]
