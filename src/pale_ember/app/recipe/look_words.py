"""How a layer's particles look, in words."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from ...effect.chapters.look import Look
from ...effect.chapters.noises import Erode
from ...effect.chapters.source import SHIPPED_MESHES
from ...effect.kinds import Across, Along, Blend, Channel, DrawnAs, Facing, Join, Lay, LayFrom, Stand
from ...effect.textures import Texture
from ...effect.values.colors import Flat
from ...effect.values.values import Band, Curve, Fixed, Spread, Value
from ..widgets.arithmetic import shown
from .pieces import Piece, amount

# Less than this is nothing: opacity that is gone, a picture that is hardly eaten.
FADED, EATEN = 0.005, 0.03
_AGES = [i / 64 for i in range(65)]


def look_words(look: Look, textures: Sequence[Texture] = ()) -> list[list[Piece]]:
    """Return the words for a look, in pieces."""
    shape = {DrawnAs.SPRITE: _shape, DrawnAs.RIBBON: _ribbon, DrawnAs.MESH: _mesh}[look.draw](look)
    found = (
        [*shape, *_picture(look, textures)]
        if look.draw != DrawnAs.SPRITE
        else [*_picture(look, textures), *shape]
    )
    if look.grow != Fixed(1.0):
        found.append([Piece("grow through "), Piece(amount(look.grow, "×"), "look.grow")])
    if look.widen != Fixed(1.0):
        found.append([Piece("widen through "), Piece(amount(look.widen, "×"), "look.widen")])
    if look.tint != Flat("#ffffff"):
        found.append([Piece("are "), Piece("each of a tint", "look.tint")])
    if look.opacity != Fixed(1.0):
        found.append([Piece(_opaque(look.opacity), "look.opacity")])
    if look.intensity != Fixed(1.0):
        found.append([Piece("shine with "), Piece(amount(look.intensity, "×"), "look.intensity")])
    if look.lit:
        found.append(
            [Piece("are lit" if look.lit == 1.0 else f"are lit by {shown(look.lit * 100, 0)} %", "look.lit")]
        )
    found += _noise(look)
    if look.shine:
        found.append([Piece("light what stands around", "look.shine")])
    if look.soften:
        found.append(
            [
                Piece("soften over "),
                Piece(f"{shown(look.soften, 2)} m", "look.soften"),
                Piece(" where they touch"),
            ]
        )
    return [*found, _blend(look)]


def _picture(look: Look, textures: Sequence[Texture]) -> list[list[Piece]]:
    """Return what the particles are drawn as, and what they wear."""
    if not look.texture:
        return []
    texture = next((one for one in textures if one.name == look.texture), None)
    count = 1 if texture is None else texture.count
    name = Piece(f"“{look.texture}”", "look.texture")
    mask = (
        [] if look.channel == Channel.ALL else [Piece(f"{look.channel}", "look.channel"), Piece(" mask of ")]
    )
    found = [Piece("wear "), *([Piece("the ")] if mask else []), *mask, name]
    if count > 1:
        if isinstance(look.frame, Spread) and look.frame_rate == Fixed(0.0):
            found = [
                Piece("wear "),
                Piece("a random one", "look.frame"),
                Piece(f" of the {count} of "),
                *mask,
                name,
            ]
        elif isinstance(look.frame, Curve | Band):
            found += [Piece(", "), Piece(f"played through its {count} frames", "look.frame")]
        elif isinstance(look.frame, Spread):
            found += [Piece(", each starting "), Piece("elsewhere", "look.frame")]
        elif look.frame != Fixed(0.0):
            found += [Piece(", from "), Piece(f"frame {amount(look.frame, digits=1)}", "look.frame")]
        if look.frame_rate != Fixed(0.0):
            found += [
                Piece(", playing at "),
                Piece(f"{amount(look.frame_rate, digits=1)} frames a second", "look.frame_rate"),
            ]
        if look.frame_blend:
            found += [Piece(", "), Piece("each fading into the next", "look.frame_blend")]
    if look.draw != DrawnAs.SPRITE and look.pan != (0.0, 0.0):
        found += [Piece(", "), Piece("sliding along", "look.pan")]
    if look.mirror and look.draw != DrawnAs.RIBBON:
        share = "all of them" if look.mirror == 1.0 else f"{shown(look.mirror * 100, 0)} % of them"
        found += [Piece(", "), Piece(f"{share} mirrored", "look.mirror")]
    return [found]


def _shape(look: Look) -> list[list[Piece]]:
    """Return how pictures face and change their size."""
    if look.facing == Facing.STREAK:
        return [
            [
                Piece("are "),
                Piece("drawn out", "look.facing"),
                Piece(" by "),
                Piece(f"{amount(look.streak, 's', 3)}", "look.streak"),
                Piece(" of their way"),
            ]
        ]
    words = {
        Facing.UPRIGHT: "stand upright",
        Facing.FLAT: "lie flat",
        Facing.TRAVEL: "lie along their travel",
    }.get(look.facing)
    return [[Piece(words, "look.facing")]] if words else []


def _ribbon(look: Look) -> list[list[Piece]]:
    """Return what ribbons join, and how their texture lies."""
    ribbon = look.ribbon
    whose = "in a ribbon for each parent" if ribbon.join == Join.PARENT else "in one ribbon"
    found = [[Piece("are "), Piece("joined", "look.draw"), Piece(" "), Piece(whose, "look.ribbon.join")]]
    lies = {
        Across.FLAT: "lie flat",
        Across.AXIS: "stand along the layer's axis",
        Across.LINE: "sweep from end to end of the line",
    }.get(ribbon.across)
    if lies:
        found.append([Piece(lies, "look.ribbon.across")])
    if ribbon.gap:
        found.append([Piece("part over "), Piece(f"{shown(ribbon.gap, 2)} m", "look.ribbon.gap")])
    if look.texture and ribbon.lay == Lay.REPEAT:
        stays = ", staying where it was laid" if ribbon.lay_from == LayFrom.TAIL else ""
        found.append(
            [
                Piece("have their picture "),
                Piece("again", "look.ribbon.lay"),
                Piece(" each "),
                Piece(f"{shown(ribbon.every, 2)} m", "look.ribbon.every"),
                *([Piece(stays, "look.ribbon.lay_from")] if stays else []),
            ]
        )
    return found


def _mesh(look: Look) -> list[list[Piece]]:
    """Return which mesh particles are, and how they stand."""
    mesh = look.mesh
    name = mesh.mesh if mesh.mesh in SHIPPED_MESHES else Path(mesh.mesh).stem
    found = [
        [
            Piece("are drawn as "),
            Piece("meshes", "look.draw"),
            Piece(" of "),
            Piece(f"“{name}”", "look.mesh.mesh"),
        ]
    ]
    stands = {Stand.TRAVEL: "point along their travel", Stand.TUMBLE: "tumble"}.get(mesh.stand)
    if stands:
        found.append([Piece(stands, "look.mesh.stand")])
    if any(value != Fixed(1.0) for value in mesh.stretch):
        each = ", ".join(
            f"{axis} {amount(value, '×', 2)}"
            for axis, value in zip("XYZ", mesh.stretch, strict=True)
            if value != Fixed(1.0)
        )
        found.append([Piece("stretch along "), Piece(each, "look.mesh.stretch")])
    if mesh.core < 1.0:
        found.append([Piece(f"are {shown(mesh.core * 100, 0)} % solid inside their rim", "look.mesh.core")])
    if mesh.rim != Fixed(0.0):
        found.append([Piece("glow at the rim by "), Piece(amount(mesh.rim, "×"), "look.mesh.rim")])
    return found


def _noise(look: Look) -> list[list[Piece]]:
    found = []
    if look.erode.amount != Fixed(0.0):
        found.append(_eaten(look.erode))
    if look.bend.amount != Fixed(0.0):
        found.append([Piece("are bent by "), Piece(amount(look.bend.amount), "look.bend.amount")])
    if look.shimmer.amount != Fixed(0.0):
        found.append([Piece("shimmer by "), Piece(amount(look.shimmer.amount), "look.shimmer.amount")])
    return found


def _eaten(erode: Erode) -> list[Piece]:
    """Return which noises eat, bend and shimmer."""
    _, high = (side.tolist() for side in erode.amount.bounds_at(_AGES))
    begins = next((age for age, much in zip(_AGES, high, strict=True) if much > EATEN), 1.0)
    when = ""
    if erode.amount.along == Along.LIFE and begins > 0.05:
        left = 1.0 - begins
        words = ((0.28, "last quarter"), (0.4, "last third"), (0.6, "second half"))
        when = next((f" in their {word}" for most, word in words if left <= most), " as they age")
    elif isinstance(erode.amount, Fixed):
        when = f" by {shown(erode.amount.number * 100, 0)} %"
    where = " from the edge" if erode.inward >= 0.3 else ""
    rim = [Piece(", "), Piece("the rim glowing", "look.erode.rim_intensity")] if erode.rim_intensity else []
    return [Piece(f"are eaten away{where}{when}", "look.erode.amount"), *rim]


def _blend(look: Look) -> list[Piece]:
    """Return how pictures are put over what is behind them."""
    if look.blend == Blend.MIX:
        low, high = look.mix.bounds_at([0.0, 1.0])
        start, end = float(low[0] + high[0]) / 2, float(low[1] + high[1]) / 2
        if look.mix.along == Along.LIFE and abs(start - end) > 0.3:
            said = (
                "add their light at first and cover at the end"
                if start > end
                else "cover at first and add their light at the end"
            )
            return [Piece(said, "look.mix")]
        return [
            Piece("cover and add", "look.blend"),
            Piece(", mixed by "),
            Piece(amount(look.mix), "look.mix"),
        ]
    words = {
        Blend.ALPHA: "cover what is behind",
        Blend.ADD: "add their light",
        Blend.MULTIPLY: "darken what is behind",
        Blend.CUTOUT: "are cut out hard",
    }[look.blend]
    return [Piece(words, "look.blend")]


def _opaque(value: Value) -> str:
    """Return in words how much a particle hides as its life goes on."""
    low, high = (side.tolist() for side in value.bounds_at(_AGES))
    most, least = max(high), min(low)
    if value.along == Along.LIFE and high[-1] < FADED < most:
        words = "fade in and out" if high[0] < FADED else "fade out"
        return words if most > 0.995 else f"{words} under {shown(most * 100, 0)} %"
    ends = [shown(end * 100, 0) for end in (least, most)]
    return f"are {ends[0]} % opaque" if ends[0] == ends[1] else f"are {ends[0]}–{ends[1]} % opaque"
