"""Effects to bundles."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Callable
from typing import Any

from ...effect.effect import Effect
from ...effect.kinds import BundleForm
from ...effect.storing.schema import effect_schema
from ...effect.storing.storage import effect_text
from ...textures.prepared import Prepared
from ..product_options import BundleOptions
from ..profile import Profile
from ..stopping import Progress, go_on
from ..textures import Trusted, textures_of
from .baking import blocks_of, texture_files
from .figures import Figures, Watcher, last_step, watch
from .manifest import Manifest, manifest_schema
from .meshes import mesh_files
from .page import page_of
from .player import first_take, player_page
from .runtime import Own, runtime_files
from .sources import with_sources
from .tables import tables_of
from .tree import MANIFEST, Tree, write_folder, write_zip

# How much of the time each part takes, about.
_SHARES = (0.1, 0.35, 0.55, 0.9, 1.0)


def bundle_of(
    effect: Effect,
    profile: Profile | None = None,
    trusted: Trusted = lambda path: True,
    progress: Progress = lambda share: False,
) -> Tree:
    """Return the files of an effect's bundle by their names; the same effect and profile give the same bytes.

    Parameters
    ----------
    trusted : callable
        Says which files may be read and brought in.
    progress : callable
        Told how much is done, 0…1; returns whether to give up.

    Raises
    ------
    EffectError
        If a texture, mesh or file of the effect can't be had.
    Stopped
    """
    profile = profile or Profile()
    options = profile.bundle

    def part(number: int) -> Progress:
        start, end = ((0.0, *_SHARES)[number], _SHARES[number])
        return lambda share: progress(start + (end - start) * share)

    go_on(part(0), 0.0)
    inside, sources = with_sources(effect, trusted)
    files: dict[str, bytes] = dict(sources)
    files["effect.json"] = effect_text(inside).encode()
    files["effect.schema.json"] = _json(effect_schema(), 1)
    files["bundle.schema.json"] = _json(manifest_schema())
    ready, wrongs = textures_of(effect, trusted)
    if wrongs:
        raise wrongs[0]
    go_on(part(1), 0.0)
    forms = {name: blocks_of(form) for name, form in profile.textures.items()}
    made, texture_rows = texture_files(effect, trusted, forms, blocks_of(options.textures))
    files |= made
    made, mesh_rows = mesh_files(effect)
    files |= made
    names = _names(effect, inside)
    mesh_rows = [{**row, "mesh": names.get(row["mesh"], row["mesh"])} for row in mesh_rows]
    tables = tables_of(effect)
    files["tables.json"] = _json({"format": "pale-ember/tables", "version": 1, "tables": tables}, 1)
    go_on(part(2), 0.0)
    figures, played, more = _played(effect, options, ready, part)
    files |= played
    files["read-me.html"] = page_of(inside, figures, texture_rows, mesh_rows, tables, more)
    rows = {"figures": figures, "textures": texture_rows, "meshes": mesh_rows}
    files[MANIFEST] = _json(_manifest(effect, files, {**rows, **more}))
    progress(1.0)
    return files


def _played(
    effect: Effect, options: BundleOptions, ready: dict[str, Prepared], part: Callable[[int], Progress]
) -> tuple[dict[str, Any], dict[str, bytes], dict[str, str]]:
    """Play an effect once; return its figures, the files of player and runtime, and the manifest's rows
    of these.
    """
    figures_seen, own, take = Figures(effect), Own(effect), first_take(effect, options.player_rate)
    wanted: tuple[tuple[Watcher, bool], ...] = (
        (figures_seen, True),
        (own, options.runtime),
        (take, options.player),
    )
    watchers = [watcher for watcher, needed in wanted if needed]
    watch(effect, watchers, ready, 0, last_step(effect), part(2))
    figures = figures_seen.found(ready.values())
    files: dict[str, bytes] = {}
    more: dict[str, str] = {}
    if options.player:
        files["player.html"] = player_page(effect, ready, take, options.player_rate, part(3))
        more["player"] = "player.html"
    go_on(part(3), 0.0)
    if options.runtime:
        files |= runtime_files(own.found())
        more |= {"runtime": "runtime/read-me.md", "vectors": "runtime/vectors.json"}
    return figures, files, more


def _manifest(effect: Effect, files: dict[str, bytes], rows: dict[str, Any]) -> dict[str, Any]:
    """Return what tells of a bundle's files, and what the effect is and costs."""
    about = {
        name: {"bytes": len(data), "sha256": hashlib.sha256(data).hexdigest()}
        for name, data in sorted(files.items())
    }
    return Manifest.model_validate({"name": effect.name, "files": about, **rows}).model_dump(mode="json")


def _names(effect: Effect, inside: Effect) -> dict[str, str]:
    """Return what the meshes of an effect are called in its bundle."""
    found: dict[str, str] = {}
    for ours, theirs in zip(effect.layers, inside.layers, strict=True):
        found[ours.look.mesh.mesh] = theirs.look.mesh.mesh
        found[ours.birthplace.mesh] = theirs.birthplace.mesh
    found |= {
        ours.mesh: theirs.mesh for ours, theirs in zip(effect.stage.props, inside.stage.props, strict=True)
    }
    return found


def _json(data: Any, depth: int = 0) -> bytes:
    return (json.dumps(data, ensure_ascii=False, indent=2 if depth == 0 else None) + "\n").encode()


def write_bundle(
    effect: Effect,
    path: str | os.PathLike[str],
    profile: Profile | None = None,
    trusted: Trusted = lambda path: True,
    progress: Progress = lambda share: False,
    inputs: tuple[str | os.PathLike[str], ...] = (),
) -> Tree:
    """Write an effect's bundle as a folder or a .zip, whole or not at all; return its files."""
    options: BundleOptions = (profile or Profile()).bundle
    tree = bundle_of(effect, profile, trusted, progress)
    (write_zip if options.form == BundleForm.ZIP else write_folder)(tree, path, inputs)
    return tree
