"""What bundles bring to the artist's own libraries."""

from __future__ import annotations

import hashlib
import os
import shutil
from pathlib import Path

import platformdirs

from ...effect.errors import EffectError
from ..library import keep_layer
from ..texture_shelf import keep_texture
from .reading import load_bundle, read_manifest, unpacked
from .tree import MANIFEST, read_folder, write_folder


def bundles_folder() -> Path:
    """Return where unpacked bundles are kept; ``PALE_EMBER_BUNDLES`` names another place."""
    return Path(
        os.environ.get("PALE_EMBER_BUNDLES") or Path(platformdirs.user_data_dir("pale-ember")) / "bundles"
    )


def keep_bundle(path: str | os.PathLike[str]) -> tuple[int, int]:
    """Bring a bundle's layers and textures, with the files that they need, into the artist's own libraries.

    Returns
    -------
    (int, int)
        How many layers and textures.

    Raises
    ------
    EffectError
        If it is no bundle, or something can't be written.
    """
    folder = _own_copy(unpacked(path, bundles_folder()))
    effect = load_bundle(folder)
    for layer in effect.layers:
        keep_layer(layer, effect)
    for texture in effect.textures:
        keep_texture(texture, effect)
    return len(effect.layers), len(effect.textures)


def _own_copy(folder: Path) -> Path:
    """Return a bundle's folder among one's own; one that lies elsewhere is copied, since it may go."""
    if folder.is_relative_to(bundles_folder()):
        return folder
    read_manifest(folder)
    digest = hashlib.sha256((folder / MANIFEST).read_bytes()).hexdigest()[:16]
    target = bundles_folder() / f"{folder.name[:60]}-{digest}"
    if not (target / MANIFEST).is_file():
        try:
            write_folder(read_folder(folder), target)
        except OSError as wrong:
            shutil.rmtree(target, ignore_errors=True)
            raise EffectError(
                str(folder), f"the bundle can't be copied: {(wrong.strerror or str(wrong)).lower()}."
            ) from None
    return target
