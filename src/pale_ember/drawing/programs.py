"""A context's shaders: each one source, built once for each set of features that is asked for."""

from __future__ import annotations

import functools
from importlib import resources
from typing import Any

from .shader_columns import with_columns


@functools.cache
def shader_source(name: str) -> str:
    """Return a shader's source as it is before features are chosen, such as of ``particle.vert``."""
    shaders = resources.files(__package__) / "shaders"
    source = (shaders / f"{name}.glsl").read_text(encoding="utf-8")
    shining = (shaders / "shining.glsl").read_text(encoding="utf-8")
    return with_columns(name, source.replace("//: shining", shining))


def _with_features(source: str, features: tuple[str, ...]) -> str:
    """Return a source with its features defined right behind its version."""
    version, _, rest = source.partition("\n")
    return "\n".join([version, *(f"#define {name}" for name in features), rest])


class Programs:
    """The shaders of a context, compiled once for all of its renderers."""

    def __init__(self, ctx: Any) -> None:
        self.ctx = ctx
        self._told: dict[int, dict[str, Any]] = {}
        self._built: dict[tuple[str, tuple[str, ...]], Any] = {}
        self._triangles: dict[tuple[str, tuple[str, ...]], Any] = {}

    def particle(self, features: frozenset[str]) -> Any:
        """Return the program that draws particles with some features, such as ``POINTS`` or ``ANGLE``."""
        return self._program("particle", "particle", tuple(sorted(features)))

    def ribbon(self, features: frozenset[str]) -> Any:
        """Return the program that draws bands through particles with some features, such as ``LIT`` or
        ``MIX``.
        """
        return self._program("ribbon", "particle", tuple(sorted({*features, "BAND"})))

    def mesh(self, features: frozenset[str]) -> Any:
        """Return the program that draws a mesh for each particle with some features, such as ``LIT`` or
        ``SHELL``.
        """
        return self._program("mesh", "particle", tuple(sorted({*features, "BODY"})))

    def solid(self, features: tuple[str, ...] = ()) -> Any:
        """Return the program that draws props; with ``SHINES`` only the light that layers throw on them."""
        return self._program("solid", "solid", features)

    def screen(self, name: str, features: tuple[str, ...] = ()) -> Any:
        """Return a program that fills a whole picture."""
        return self._program("screen", name, features)

    def fill(self, name: str, features: tuple[str, ...] = ()) -> None:
        """Fill the viewport with a screen program."""
        if (name, features) not in self._triangles:
            self._triangles[name, features] = self.ctx.vertex_array(self.screen(name, features), [])
        self._triangles[name, features].render(vertices=3)

    def _program(self, vertex: str, fragment: str, features: tuple[str, ...]) -> Any:
        key = (fragment, features)
        if key not in self._built:
            self._built[key] = self.ctx.program(
                vertex_shader=_with_features(shader_source(f"{vertex}.vert"), features),
                fragment_shader=_with_features(shader_source(f"{fragment}.frag"), features),
            )
        return self._built[key]

    def upload(self, program: Any, name: str, value: Any) -> None:
        """Set what is the same for all that a program draws, if it asks for it and doesn't have it already.

        ``value`` is a number, a tuple of numbers, or the bytes of a matrix.
        """
        told = self._told.get(program.glo)
        if told is None:
            told = self._told[program.glo] = dict.fromkeys(program, None)
        if name not in told or told[name] == value:
            return
        told[name] = value
        if isinstance(value, bytes):
            program[name].write(value)
        else:
            program[name].value = value

    def asks(self, program: Any, name: str) -> bool:
        """Return whether a program uses a uniform or an attribute."""
        if program.glo not in self._told:
            self._told[program.glo] = dict.fromkeys(program, None)
        return name in self._told[program.glo]

    def release(self) -> None:
        """Give them back; their context must be current."""
        for thing in (*self._triangles.values(), *self._built.values()):
            thing.release()
        self._built, self._triangles, self._told = {}, {}, {}
