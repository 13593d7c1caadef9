"""What a game wants of its effects: forms, sizes, rates, budgets; kept in a small TOML file."""

from __future__ import annotations

import math
import os
import tomllib
from typing import Any

import tomli_w
from pydantic import ValidationError, field_validator
from pydantic_core import PydanticCustomError

from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.kinds import TextureForm
from ..effect.rules import fields
from ..effect.rules.descriptions import description_of
from ..effect.rules.part import Part
from ..effect.rules.refusals import refusal
from ..effect.storing.storage import part_data
from ..effect.storing.whole_files import read_regular, write_whole
from .product_options import (
    Budget,
    BundleOptions,
    CacheOptions,
    FilmOptions,
    FramesOptions,
    Seen,
    SheetOptions,
)

LARGEST = 1 << 20


class Profile(Part):
    """All wishes of one game."""

    name: str = fields.text("", "Name", "What the profile is called.", also="title")
    bundle: BundleOptions = BundleOptions()
    sheet: SheetOptions = SheetOptions()
    frames: FramesOptions = FramesOptions()
    film: FilmOptions = FilmOptions()
    cache: CacheOptions = CacheOptions()
    budget: Budget = Budget()
    # How single textures are stored, by their name, or name/normals, name/motion.
    textures: dict[str, TextureForm] = {}

    @field_validator("textures", mode="before")
    @classmethod
    def _forms_are_known(cls, raw: object) -> object:
        if not isinstance(raw, dict):
            raise PydanticCustomError(
                "form", "{reason}", {"reason": "this must name a form for each texture."}
            )
        for name, form in raw.items():
            if form not in tuple(TextureForm):
                reason = f"“{str(form)[:40]}” is no form of a texture; take one of {', '.join(TextureForm)}."
                raise PydanticCustomError("form", "{reason}", {"reason": reason, "place": f".{name}"})
        return {str(name): TextureForm(form) for name, form in raw.items()}


def length_of(options: Seen | CacheOptions, effect: Effect) -> float:
    """Return how long what is wished of an effect lasts, s: as it says, else up to the effect's end."""
    return options.length or max(effect.duration - options.begin, 0.0) or effect.duration


def can_close(options: Seen, effect: Effect) -> bool:
    """Return whether the last picture leads into the first: of the whole of an effect that loops, if that
    is wished.
    """
    whole = not options.begin and (not options.length or math.isclose(options.length, effect.duration))
    return whole and options.close and effect.loop


def parse_profile(text: str, place: str = "profile") -> Profile:
    """Return the profile that a TOML text describes.

    Raises
    ------
    EffectError
        With the place in it and one sentence.
    """
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as wrong:
        raise EffectError(
            place, f"this is not whole TOML: {str(wrong)[:1].lower()}{str(wrong)[1:]}."
        ) from None
    except RecursionError:
        raise EffectError(place, "brackets are nested too deeply for a profile.") from None
    try:
        return Profile.model_validate(data)
    except ValidationError as wrong:
        raise refusal(wrong, "", Profile) from None


def load_profile(path: str | os.PathLike[str]) -> Profile:
    """Return the profile in a file."""
    data = read_regular(path, LARGEST)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise EffectError(str(path), "this is not UTF-8 text; save it as UTF-8.") from None
    try:
        return parse_profile(text, str(path))
    except EffectError as wrong:
        where = wrong.place if wrong.place != str(path) else ""
        raise EffectError(f"{path}{f', {where}' if where else ''}", wrong.reason) from None


def profile_text(profile: Profile) -> str:
    """Return a profile as TOML: only what differs from the defaults."""
    data = part_data(profile)
    if profile.textures:
        data["textures"] = {name: str(form) for name, form in profile.textures.items()}
    return tomli_w.dumps({name: part for name, part in data.items() if part not in ({}, "")})


def save_profile(profile: Profile, path: str | os.PathLike[str]) -> None:
    """Write a profile to a file, whole or not at all."""
    write_whole(path, profile_text(profile).encode())


def start_text() -> str:
    """Return a profile to start from as TOML: each field at its default, commented out, with what it
    means.
    """
    rows = [
        "# What a game wants of its effects. Take away the # before a line to change what it says.",
        "",
        '# name = ""',
    ]
    for section, info in Profile.model_fields.items():
        default = info.get_default()
        if not isinstance(default, Part):
            continue
        model = type(default)
        rows += ["", f"# {description_of(model)}", f"[{section}]"]
        for name, rule in model.rules().items():
            more = (
                f" ({', '.join(str(one) for one in rule.choices)})"
                if rule.choices
                else f" ({rule.unit})"
                if rule.unit
                else ""
            )
            rows += [
                f"# {rule.help}{more}",
                f"# {tomli_w.dumps({name: _as_toml(model.default_of(name))}).strip()}",
            ]
    rows += [
        "",
        "# Single textures, by their name, or name/normals, name/motion.",
        "[textures]",
        '# "flame" = "bc7"',
        "",
    ]
    return "\n".join(rows)


def _as_toml(value: Any) -> Any:
    return str(value) if isinstance(value, str) else value
