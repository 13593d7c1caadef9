"""A hand-over in words: what it gives, and what the command line for it would be."""

from __future__ import annotations

import shlex
from collections.abc import Collection
from pathlib import Path

from ...effect.effect import Effect
from ...effect.kinds import Behind, BundleForm, FilmForm, TextureForm
from ...effect.rules.part import Part
from ...effect.storing.storage import field_data
from ...simulation.time.weight import may_refuse
from ..product_options import CacheOptions, FilmOptions, FramesOptions, Seen, SheetOptions
from ..profile import Profile, can_close, length_of
from .works import Product, wish_of


def summary(product: Product, profile: Profile, effect: Effect) -> str:
    """Return in a sentence or two what a product of an effect will be."""
    options = wish_of(profile, product)
    if isinstance(options, SheetOptions):
        cell = options.frame + 2 * options.padding
        maps = "".join(
            words
            for words, wanted in ((", a motion map", options.motion), (", a normal map", options.normals))
            if wanted
        )
        return (
            f"{_many(options.columns * options.rows, 'frame')} of {options.frame} pixels, "
            f"{options.columns * cell} × {options.rows * cell} in all{maps}, and a file that says how to "
            f"play it.{_loop(options, effect)}"
        )
    if isinstance(options, FramesOptions):
        return (
            f"{_many(_count(options, effect, options.rate), f'{options.form.upper()} file')} of "
            f"{options.width} × {options.height} pixels in a folder.{_loop(options, effect)}"
        )
    if isinstance(options, FilmOptions):
        clear = (
            " MP4 can't be clear: black stands behind it."
            if options.form == FilmForm.MP4 and options.behind == Behind.NOTHING
            else ""
        )
        seconds = length_of(options, effect) * options.loops
        return (
            f"{_many(_count(options, effect, options.rate) * options.loops, 'picture')} of {options.width} × "
            f"{options.height} pixels, {seconds:g} s.{_loop(options, effect)}{clear}"
        )
    if isinstance(options, CacheOptions):
        moments = round(length_of(options, effect) * options.rate) + 1
        layers = sum(layer.enabled for layer in effect.layers)
        return f"{_many(moments, 'moment')} of {_many(layers, 'layer')}, with all that each particle has."
    form = "One .zip" if profile.bundle.form == BundleForm.ZIP else "A folder"
    count = len(effect.textures)
    each = (
        f"{'each ' if count > 1 else ''}in the form that suits it"
        if profile.bundle.textures == TextureForm.PROPOSED
        else f"as {profile.bundle.textures.upper()}"
    )
    held = f" {_many(count, 'texture')} {each}," if count else ""
    more = "".join(
        words
        for words, wanted in (
            (", a player", profile.bundle.player),
            (", a runtime to read", profile.bundle.runtime),
        )
        if wanted
    )
    return (
        f"{form} with the effect as JSON and its schema,{held} meshes, sampled curves, figures, a page "
        f"that explains it all{more}."
    )


def _many(count: int, what: str) -> str:
    return f"{count} {what}{'' if count == 1 else 's'}"


def _count(options: Seen, effect: Effect, rate: float) -> int:
    return max(1, round(length_of(options, effect) * rate))


def _loop(options: Seen, effect: Effect) -> str:
    if not can_close(options, effect):
        return ""
    full = next((layer for layer in effect.layers if may_refuse(effect, layer)), None)
    return (
        " Its last picture leads into its first."
        if full is None
        else f" Its last picture may not lead into its first: the cap of “{full.name}” may refuse births."
    )


def command_line(
    product: Product,
    profile: Profile,
    file: str,
    out: str,
    name: str,
    base: Profile | None = None,
    base_file: str = "",
    textures: Collection[str] | None = None,
) -> str:
    """Return the command line that does the same.

    Parameters
    ----------
    name : str
        What it is called in ``out``, without an ending.
    base, base_file : Profile, str
        The profile that was opened, and its file; what differs from it is set by words of its own.
    textures : collection of str, optional
        The names of the effect's textures; forms of others, which a profile may name for other effects, are
        left out.
    """
    command = {Product.BUNDLE: ["export"], Product.CACHE: ["cache"]}.get(product, ["bake"])
    words = ["pale-ember", *command, file]
    if command == ["bake"]:
        words += ["--as", str(product)]
    words += ["--out", out]
    if name != Path(file).stem:
        words += ["--name", name]
    if base_file:
        words += ["--profile", base_file]
    base = base or Profile()
    for field, value in differences(wish_of(profile, product), wish_of(base, product)):
        words += ["--set", f"{product}.{field}={value}"]
    if product == Product.BUNDLE:
        for field, value in differences(profile.budget, base.budget):
            words += ["--set", f"budget.{field}={value}"]
        # Textures that the profile's file names and the artist no longer does are stored as all others are.
        forms = dict.fromkeys(base.textures, profile.bundle.textures) | profile.textures
        for texture, form in forms.items():
            is_here = textures is None or texture.removesuffix("/normals").removesuffix("/motion") in textures
            if is_here and base.textures.get(texture) != form:
                words += ["--texture", f"{texture}={form}"]
    return shlex.join(words)


def differences(options: Part, base: Part) -> list[tuple[str, str]]:
    """Return the fields of a wish that are not as another one's, as words."""
    found = []
    for name, rule in type(options).rules().items():
        now = getattr(options, name)
        if now != getattr(base, name):
            data = field_data(now, rule)
            found.append(
                (
                    name,
                    str(data).lower()
                    if isinstance(data, bool)
                    else repr(data)
                    if isinstance(data, float)
                    else str(data),
                )
            )
    return found
