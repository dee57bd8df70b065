"""The generated views: sea, stone, lamp, rope, birds, an engraving, a letter and a map."""

from dataclasses import dataclass

import numpy as np

from harnet.scenery.field import Array, Field, gradient, grained, mixed, noise, soft

Colour = tuple[float, float, float]


@dataclass(frozen=True, kw_only=True)
class Light:
    """A time of day: sky from top to horizon, clouds, sea, land and how much the lamp glows."""

    zenith: Colour
    middle: Colour
    horizon: Colour
    cloud: Colour
    sea: Colour
    land: Colour
    glow: float


MORNING = Light(
    zenith=(0.30, 0.52, 0.72),
    middle=(0.62, 0.78, 0.86),
    horizon=(0.97, 0.88, 0.74),
    cloud=(1.0, 0.97, 0.92),
    sea=(0.20, 0.38, 0.47),
    land=(0.20, 0.25, 0.20),
    glow=0.0,
)
DUSK = Light(
    zenith=(0.13, 0.17, 0.34),
    middle=(0.45, 0.33, 0.48),
    horizon=(0.98, 0.62, 0.38),
    cloud=(0.72, 0.42, 0.46),
    sea=(0.14, 0.18, 0.30),
    land=(0.09, 0.09, 0.13),
    glow=1.0,
)
FOG = Light(
    zenith=(0.62, 0.66, 0.69),
    middle=(0.73, 0.76, 0.77),
    horizon=(0.82, 0.83, 0.82),
    cloud=(0.86, 0.87, 0.87),
    sea=(0.50, 0.56, 0.58),
    land=(0.42, 0.46, 0.46),
    glow=0.55,
)
STORM = Light(
    zenith=(0.16, 0.20, 0.25),
    middle=(0.31, 0.37, 0.42),
    horizon=(0.57, 0.61, 0.60),
    cloud=(0.44, 0.48, 0.52),
    sea=(0.12, 0.22, 0.25),
    land=(0.10, 0.13, 0.13),
    glow=0.7,
)
NOON = Light(
    zenith=(0.16, 0.40, 0.72),
    middle=(0.40, 0.63, 0.86),
    horizon=(0.80, 0.90, 0.95),
    cloud=(1.0, 1.0, 1.0),
    sea=(0.08, 0.35, 0.50),
    land=(0.30, 0.36, 0.22),
    glow=0.0,
)


def coast(
    width: int,
    height: int,
    light: Light,
    seed: int,
    tower: tuple[float, float] = (0.62, 0.42),
    horizon: float = 0.62,
) -> Array:
    """Sky, sea, a headland and the lighthouse at `tower`: its place across and its height."""
    f = Field(height, width)
    ratio = height / width
    sky = gradient(
        f.down, [(0, light.zenith), (horizon * 0.55, light.middle), (horizon, light.horizon)]
    )
    clouds = noise(height, width, seed, 4, 6, stretch=2.6)
    sky = mixed(sky, light.cloud, np.clip((clouds - 0.48) * 3.2, 0, 0.85) * (1 - 0.4 * f.down))
    depth = np.clip((f.down - horizon) / (1 - horizon), 0, 1)
    waves = noise(height, width, seed + 1, 26, 4, stretch=9)
    ripples = noise(height, width, seed + 2, 110, 3, stretch=6)
    sea = np.asarray(light.sea, "float32") * (0.75 + 0.9 * (waves - 0.5) * (0.4 + depth))[..., None]
    shine = np.exp(-(((f.x - tower[0]) / (0.10 + 0.25 * depth)) ** 2))
    crest = np.clip(waves * 0.6 + ripples * 0.6 - 0.62, 0, 1)
    sea = mixed(sea, light.horizon, np.clip(shine * crest * 5, 0, 0.9))
    picture = np.where((f.down < horizon)[..., None], sky, sea)
    ridge = (horizon - 0.015) * ratio - 0.10 * ratio * np.exp(-(((f.x - tower[0]) / 0.22) ** 2))
    ridge = ridge + (noise(8, width, seed + 3, 14, 6)[:1] - 0.5) * 0.05 * ratio
    ground = (
        np.asarray(light.land, "float32")
        * (0.6 + 0.9 * noise(height, width, seed + 4, 60, 5))[..., None]
    )
    shore = (horizon + 0.035) * ratio + (noise(8, width, seed + 5, 22, 5)[:1] - 0.5) * 0.035 * ratio
    land = soft(f.y - ridge, f.pixel) * soft(shore - f.y, f.pixel * 2)
    land = land * (np.abs(f.x - tower[0]) < 0.42)
    picture = mixed(picture, (0, 0, 0), land)
    picture = picture + ground * land[..., None]
    foot = (horizon - 0.09) * ratio
    return grained(_with_tower(picture, f, tower[0], foot, tower[1] * ratio, light), seed + 6)


def _with_tower(
    picture: Array, f: Field, at: float, foot: float, tall: float, light: Light
) -> Array:
    up = (foot + 0.012 - f.y) / tall
    half = tall * (0.105 - 0.045 * up)
    across = (f.x - at) / half
    shade = np.clip(0.95 - 0.42 * across - 0.18 * across**2, 0.25, 1)
    plaster = 0.96 + 0.06 * (noise(f.height, f.width, 77, 90, 3) - 0.5)
    inside = soft(half - np.abs(f.x - at), f.pixel) * soft(up, 0.004) * soft(0.80 - up, 0.004)
    dim = 0.35 + 0.65 * max(light.horizon)
    picture = mixed(picture, (0, 0, 0), inside)
    white = np.asarray((0.97, 0.95, 0.90), "float32") * (shade * plaster * dim * inside)[..., None]
    band = ((up % 0.32) > 0.20) & (up < 0.78)
    red = np.asarray((0.55, 0.13, 0.20), "float32") * (shade * dim * inside)[..., None]
    picture = picture + np.where(band[..., None], red, white)
    wide = tall * 0.085
    for low, high, size, colour in (
        (0.795, 0.825, 1.15, (0.10, 0.12, 0.14)),
        (0.825, 0.92, 0.62, (0.98, 0.92, 0.66)),
        (0.92, 0.945, 0.85, (0.50, 0.12, 0.19)),
    ):
        part = soft(wide * size - np.abs(f.x - at), f.pixel) * soft(up - low, 0.003)
        picture = mixed(picture, colour, part * soft(high - up, 0.003))
    if light.glow:
        lamp = foot - 0.86 * tall
        far = np.hypot(f.x - at, f.y - lamp)
        beam = np.exp(-((f.y - lamp) ** 2) / (0.0004 + 0.02 * (f.x - at) ** 2))
        glow = 0.75 * np.exp(-far / 0.05) + 0.28 * beam * np.exp(-far / 0.42)
        picture = mixed(picture, (1.0, 0.95, 0.78), np.clip(glow * light.glow, 0, 1))
    return picture


def lamp_room(width: int, height: int, seed: int) -> Array:
    """Rings of cut glass around a lamp."""
    f = Field(height, width)
    ratio = height / width
    far = np.hypot(f.x - 0.48, (f.y - 0.5 * ratio) * 1.15)
    rings = 0.5 + 0.5 * np.sin(far * 150 + 5 * noise(height, width, seed, 5, 3))
    facets = 0.5 + 0.5 * np.cos(np.arctan2(f.y - 0.5 * ratio, f.x - 0.48) * 24)
    brass = gradient(f.down, [(0, (0.32, 0.23, 0.12)), (1, (0.12, 0.08, 0.05))])
    glass = gradient(np.clip(far * 2.4, 0, 1), [
        (0, (1.0, 0.97, 0.80)), (0.35, (0.86, 0.80, 0.52)), (1, (0.16, 0.24, 0.25)),
    ])  # fmt: skip
    picture = (
        mixed(brass, (0, 0, 0), soft(0.40 - far, 0.004))
        + glass
        * (soft(0.40 - far, 0.004) * (0.55 + 0.45 * rings * (0.6 + 0.4 * facets)))[..., None]
    )
    bars = np.minimum(np.abs(f.x % 0.24 - 0.12), 0.12) < 0.006
    picture = np.where(bars[..., None] & (far > 0.12)[..., None], picture * 0.35, picture)
    return grained(np.clip(picture, 0, 1), seed + 1, 0.02)


def rope_store(width: int, height: int, seed: int) -> Array:
    """Coils of rope on planks."""
    f = Field(height, width)
    ratio = height / width
    grain = noise(height, width, seed, 5, 6, stretch=14)
    plank = (f.y * 7 / ratio) % 1
    wood = np.asarray((0.42, 0.30, 0.20), "float32") * (0.55 + 0.7 * grain)[..., None]
    picture = np.where((plank < 0.035)[..., None], wood * 0.35, wood)
    for number, (x, y, size) in enumerate(
        ((0.28, 0.40, 0.20), (0.66, 0.52, 0.26), (0.42, 0.80, 0.15))
    ):
        far = np.hypot(f.x - x, f.y - y * ratio)
        turn = np.arctan2(f.y - y * ratio, f.x - x)
        strand = (far - turn * size / 60) * (42 / size / 3)
        round_ = np.clip(np.sin(np.pi * (strand % 1)), 0, 1)
        lay = 0.75 + 0.25 * np.sin(turn * 90 + strand * 9)
        inside = soft(size - far, 0.002) * soft(far - size * 0.22, 0.002)
        colour = np.asarray(((0.80, 0.71, 0.52), (0.66, 0.60, 0.50), (0.30, 0.45, 0.52))[number])
        picture = mixed(picture, (0.05, 0.04, 0.03), 0.6 * soft(size * 1.08 - far, 0.03))
        picture = mixed(picture, (0, 0, 0), inside)
        picture = picture + colour * (inside * (0.18 + 0.82 * round_ * lay))[..., None]
    return grained(np.clip(picture, 0, 1).astype("float32"), seed + 1, 0.015)


def stonework(width: int, height: int, seed: int) -> Array:
    """A wall of dressed stone with moss."""
    f = Field(height, width)
    row = np.floor(f.y * 12)
    along = f.x * 8 + 0.5 * (row % 2) + 0.13 * np.sin(row * 7)
    wobble = (noise(height, width, seed, 30, 4) - 0.5) * 0.12
    edge = np.minimum(np.abs((along + wobble) % 1 - 0.5), 0.5 - 0.0)
    joint = np.maximum(edge - 0.455, np.abs((f.y * 12 + wobble) % 1 - 0.5) - 0.44)
    tone = 0.5 + 0.35 * np.sin(np.floor(along) * 12.9 + row * 78.2)
    rough = noise(height, width, seed + 1, 50, 6)
    stone = gradient(tone, [(0, (0.46, 0.44, 0.41)), (1, (0.70, 0.66, 0.59))])
    stone = stone * (0.55 + 0.8 * rough)[..., None]
    picture = mixed(stone, (0.22, 0.21, 0.19), soft(joint, 0.02))
    moss = np.clip((noise(height, width, seed + 2, 6, 5) - 0.55) * 6, 0, 1) * rough
    return grained(np.clip(mixed(picture, (0.24, 0.34, 0.16), moss), 0, 1), seed + 3)


def gulls(width: int, height: int, seed: int) -> Array:
    """Gulls over a pale sky."""
    f = Field(height, width)
    picture = gradient(f.down, [(0, (0.42, 0.60, 0.78)), (1, (0.86, 0.90, 0.90))])
    random = np.random.default_rng(seed)
    for number in range(7):
        x, y = random.random(), random.random() * height / width
        size = 0.30 if number == 0 else 0.04 + 0.06 * random.random()
        if number == 0:
            x, y = 0.5, 0.52 * height / width
        u, v = (f.x - x) / size, (f.y - y) / size
        wing = v + 0.34 * np.abs(u) ** 0.7 - 0.30 * np.abs(u) ** 2 - 0.05
        thick = 0.085 * np.clip(1 - np.abs(u), 0, 1) + 0.01
        picture = mixed(
            picture, (0.96, 0.96, 0.95), soft(thick - np.abs(wing), 0.01) * (np.abs(u) < 1)
        )
        tip = soft(thick - np.abs(wing), 0.01) * (np.abs(u) > 0.8) * (np.abs(u) < 1)
        picture = mixed(picture, (0.15, 0.16, 0.18), tip)
        body = (u / 0.16) ** 2 + ((v - 0.02) / 0.30) ** 2
        picture = mixed(picture, (0.99, 0.98, 0.96), soft(1 - body, 0.05))
    return grained(picture, seed, 0.01)


def engraved(picture: Array, lines: float) -> Array:
    """A grey picture cut in lines, `lines` across its width: True is paper."""
    height, width = picture.shape
    f = Field(height, width)
    swing = noise(height, width, 5, 6, 2) * 0.02
    first = np.abs(((f.y + swing) * lines) % 1 - 0.5) * 2
    second = np.abs(((f.x * 0.7 + f.y * 0.7 + swing) * lines) % 1 - 0.5) * 2
    dark = 1 - picture
    return (first > dark * 1.05) & ((second > (dark - 0.5) * 1.6) | (dark < 0.5))


def letter(width: int, height: int, seed: int) -> Array:
    """A handwritten page, scanned: grey, 0 to 1."""
    f = Field(height, width)
    paper = 0.86 + 0.10 * (noise(height, width, seed, 6, 6) - 0.5)
    paper = paper - 0.16 * np.exp(-np.abs(f.down - 0.5) / 0.004) * 0.4
    ink = np.zeros((height, width), "float32")
    random = np.random.default_rng(seed)
    xs = np.linspace(0, 1, width, dtype="float32")
    for line in range(22):
        centre = 0.10 + line * 0.038
        end = 0.88 if line % 7 != 6 else 0.45
        pen = np.zeros_like(xs)
        for rate in (190, 310, 430, 95):
            pen += random.random() * np.sin(xs * rate + random.random() * 6)
        gaps = np.sin(xs * (38 + 6 * random.random()) + random.random() * 6) > -0.82
        tall = 0.0052 * pen * (height / width)
        top = (centre * height / width + tall) * width
        for x in map(int, np.flatnonzero((xs > 0.12) & (xs < end) & gaps)):
            y = int(top[x])
            step = int(abs(top[min(x + 1, width - 1)] - top[x])) + max(2, width // 620)
            ink[max(0, y) : min(height, y + step), x] = 1
    written = grained(paper * (1 - 0.78 * ink * (0.7 + 0.6 * (paper - 0.8))), seed, 0.01)
    page: Array = np.clip(written, 0, 1)
    return page


def sea_map(width: int, height: int, seed: int) -> Array:
    """A chart with depth contours, land, rocks and a grid."""
    f = Field(height, width)
    ground = noise(height, width, seed, 3.2, 6)
    far = np.hypot(f.x - 0.55, (f.y - 0.5 * height / width) * 1.2)
    ground = ground * 0.7 + 0.55 * np.exp(-((far / 0.28) ** 2))
    land = ground > 0.72
    depth = np.clip((0.72 - ground) / 0.5, 0, 1)
    picture = gradient(
        depth, [(0, (0.86, 0.93, 0.93)), (0.5, (0.60, 0.78, 0.84)), (1, (0.38, 0.60, 0.72))]
    )
    step = np.floor(depth * 9)
    picture = picture * (1 - 0.03 * step[..., None])
    hill = gradient(
        np.clip((ground - 0.72) * 4, 0, 1), [(0, (0.93, 0.89, 0.72)), (1, (0.72, 0.62, 0.42))]
    )
    picture = np.where(land[..., None], hill, picture)
    contour = np.abs((ground * 26) % 1 - 0.5) < 0.035 + 0.02 * land
    picture = np.where(contour[..., None], picture * 0.62, picture)
    shore = np.abs(ground - 0.72) < 0.0035
    picture = np.where(shore[..., None], 0.12, picture)
    grid = (np.abs((f.x * 8) % 1 - 0.5) > 0.4975) | (np.abs((f.y * 8) % 1 - 0.5) > 0.4975)
    picture = np.where(grid[..., None], picture * 0.75, picture)
    found: Array = np.clip(picture, 0, 1).astype("float32")
    return found


def flags(width: int, height: int, seed: int) -> Array:
    """Rows of signal flags in the wind."""
    f = Field(height, width)
    picture = gradient(f.down, [(0, (0.34, 0.55, 0.76)), (1, (0.80, 0.88, 0.92))])
    colours = [(0.80, 0.12, 0.16), (0.95, 0.78, 0.12), (0.10, 0.25, 0.60), (0.97, 0.97, 0.95)]
    wave = 0.014 * np.sin(f.x * 40) + (noise(height, width, seed, 4, 3) - 0.5) * 0.03
    for row in range(3):
        for column in range(5):
            u = (f.x - 0.05 - column * 0.185) / 0.15
            v = (f.y + wave - (0.06 + row * 0.30) * height / width) / 0.12
            inside = soft(0.5 - np.abs(u - 0.5), 0.01) * soft(0.5 - np.abs(v - 0.5), 0.01)
            one, two = colours[(row + column) % 4], colours[(row * 2 + column + 1) % 4]
            kind = (row * 5 + column) % 4
            second = [u > 0.5, np.abs(v - 0.5) < 0.2, np.hypot(u - 0.5, v - 0.5) < 0.25, u > v][
                kind
            ]
            cloth = np.where(second[..., None], two, one)
            fold = (
                0.82
                + 0.22 * np.sin(f.x * 40 + 1.2)
                + 0.1 * (noise(height, width, seed + 9, 60, 3) - 0.5)
            )
            picture = mixed(picture, (0, 0, 0), inside) + cloth * (inside * fold)[..., None]
    return grained(np.clip(picture, 0, 1).astype("float32"), seed, 0.01)


def stair(width: int, height: int, seed: int) -> Array:
    """A spiral stair seen from above."""
    f = Field(height, width)
    ratio = height / width
    dx, dy = f.x - 0.5, f.y - 0.48 * ratio
    far, turn = np.hypot(dx, dy), np.arctan2(dy, dx)
    spiral = (turn / (2 * np.pi) * 22 + np.log(far + 0.02) * 6) % 1
    depth = np.clip(far / 0.55, 0, 1)
    stone = gradient(
        depth, [(0, (0.10, 0.09, 0.09)), (0.5, (0.52, 0.46, 0.38)), (1, (0.80, 0.74, 0.64))]
    )
    rough = noise(height, width, seed, 40, 5)
    picture = stone * ((0.45 + 0.6 * spiral) * (0.7 + 0.6 * rough))[..., None]
    rail = np.abs(far - (0.16 + 0.02 * np.sin(turn * 3))) < 0.006
    picture = np.where(rail[..., None], (0.15, 0.20, 0.22), picture)
    return grained(np.clip(picture, 0, 1).astype("float32"), seed, 0.014)
