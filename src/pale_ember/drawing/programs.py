"""A context's shaders: each one source, built once for each set of features that is asked for."""

from __future__ import annotations

import functools
from importlib import resources
from typing import Any


@functools.cache
def _source(name: str) -> str:
    return (resources.files(__package__) / "shaders" / f"{name}.glsl").read_text(encoding="utf-8")


def _with_features(source: str, features: tuple[str, ...]) -> str:
    """Return a source with its features defined right behind its version."""
    version, _, rest = source.partition("\n")
    return "\n".join([version, *(f"#define {name}" for name in features), rest])


class Programs:
    """The shaders of a context, compiled once for all of its renderers."""

    def __init__(self, ctx: Any) -> None:
        self.ctx = ctx
        self._built: dict[tuple[str, tuple[str, ...]], Any] = {}
        self._triangles: dict[str, Any] = {}

    def particle(self, features: frozenset[str]) -> Any:
        """Return the program that draws particles with some features, such as ``POINTS`` or ``ANGLE``."""
        return self._program("particle", "particle", tuple(sorted(features)))

    def screen(self, name: str) -> Any:
        """Return a program that fills a whole picture."""
        return self._program("screen", name, ())

    def fill(self, name: str) -> None:
        """Fill the viewport with a screen program."""
        if name not in self._triangles:
            self._triangles[name] = self.ctx.vertex_array(self.screen(name), [])
        self._triangles[name].render(vertices=3)

    def _program(self, vertex: str, fragment: str, features: tuple[str, ...]) -> Any:
        key = (fragment, features)
        if key not in self._built:
            self._built[key] = self.ctx.program(
                vertex_shader=_with_features(_source(f"{vertex}.vert"), features),
                fragment_shader=_with_features(_source(f"{fragment}.frag"), features),
            )
        return self._built[key]

    def release(self) -> None:
        """Give them back; their context must be current."""
        for thing in (*self._triangles.values(), *self._built.values()):
            thing.release()
        self._built, self._triangles = {}, {}
