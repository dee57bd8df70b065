"""What templates say figures and dates with; they compute nothing themselves."""

import re
from collections.abc import Callable, Sized
from datetime import datetime


def px(figure: float) -> str:
    """Screen pixels of a drawing.

    >>> px(3.14159)
    '3.1'
    """
    return f"{figure:.1f}"


def pt(figure: float) -> str:
    """Points of a drawing.

    >>> pt(3.14159)
    '3.14'
    """
    return f"{figure:.2f}"


def four_places(figure: float) -> str:
    """A measure that is told to four places.

    >>> four_places(1.0)
    '1.0000'
    """
    return f"{figure:.4f}"


def plain(figure: float) -> str:
    """A figure in a field, without zeros that say nothing.

    >>> plain(300.0), plain(1.5)
    ('300', '1.5')
    """
    return f"{figure:g}"


def percent(share: float) -> str:
    """A share as the percentage in a field.

    >>> percent(0.1)
    '10'
    """
    return f"{100 * share:g}"


def day(when: datetime) -> str:
    """A date.

    >>> day(datetime(2031, 5, 4, 9, 30))
    '4 May 2031'
    """
    return f"{when:%-d %B %Y}"


def moment(when: datetime) -> str:
    """A date with its time.

    >>> moment(datetime(2031, 5, 4, 9, 30))
    '4 May 2031, 09:30'
    """
    return f"{when:%-d %B %Y, %H:%M}"


def short_moment(when: datetime) -> str:
    """A date of these weeks with its time.

    >>> short_moment(datetime(2031, 5, 4, 9, 30))
    '4 May, 09:30'
    """
    return f"{when:%-d %B, %H:%M}"


def short_day(when: datetime) -> str:
    """A date of these weeks.

    >>> short_day(datetime(2031, 5, 4, 9, 30))
    '4 May'
    """
    return f"{when:%-d %B}"


def clock(when: datetime) -> str:
    """A time of today.

    >>> clock(datetime(2031, 5, 4, 9, 30))
    '09:30'
    """
    return f"{when:%H:%M}"


def device(user_agent: str) -> str:
    """What a browser says that it runs on.

    >>> device("Mozilla/5.0 (X11; Linux x86_64; rv:1) Gecko/20100101")
    'X11, Linux x86_64'
    >>> device("curl/8")
    'curl/8'
    """
    inside = re.search(r"\(([^()]+)\)", user_agent)
    if inside is None:
        return user_agent[:40] or "an unknown device"
    return ", ".join(one.strip() for one in inside[1].split(";") if ":" not in one)


def by(name: str, what: str = "") -> str:
    """Who did what, to go on after other words; nothing where nobody signed in.

    >>> by("Ada Lind", "asked for"), by("", "asked for")
    (' · asked for by Ada Lind', '')
    """
    return f" · {what} by {name}".replace("  ", " ") if name else ""


def initials(name: str) -> str:
    """The first letters of a name's first and last word.

    >>> initials("Ada van der Lind"), initials("ada")
    ('AL', 'A')
    """
    words = name.split()
    return "".join(one[0] for one in (words[:1] + words[1:][-1:])).upper()


def waited(seconds: float) -> str:
    """How long something has waited.

    >>> waited(42.4), waited(150), waited(7500)
    ('42 s', '2 min', '2 h 5 min')
    """
    whole = int(seconds)
    if whole < 120:
        return f"{whole} s"
    hours, minutes = divmod(whole // 60, 60)
    return f"{hours} h {minutes} min" if hours else f"{minutes} min"


def beyond(rows: Sized | int, shown: Sized | int) -> int:
    """How many rows there are besides those that are shown.

    >>> beyond([1, 2, 3], 1)
    2
    """
    return _count(rows) - _count(shown)


def _count(rows: Sized | int) -> int:
    return rows if isinstance(rows, int) else len(rows)


FILTERS: dict[str, Callable[..., object]] = {
    one.__name__: one
    for one in (
        px,
        pt,
        four_places,
        plain,
        percent,
        day,
        moment,
        short_moment,
        short_day,
        clock,
        device,
        waited,
        initials,
        by,
        beyond,
    )
}
