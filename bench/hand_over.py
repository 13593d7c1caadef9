"""What handing over costs: films beside drawing and encoding alone, blocks beside the library, a bundle."""

from __future__ import annotations

import os
import subprocess
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import etcpak
import numpy as np

from pale_ember.demo import demo
from pale_ember.drawing.offscreen import OffscreenRenderer
from pale_ember.effect.kinds import FilmForm
from pale_ember.files.bakes.film import encoder_line, write_film
from pale_ember.files.bakes.filming import filmed
from pale_ember.files.bundle.writing import bundle_of
from pale_ember.files.product_options import FilmOptions
from pale_ember.files.textures import textures_of
from pale_ember.textures.compressing import Blocks, Meaning, compressed, smaller_copies

_SIDE, _LEVELS = 1024, 11


def measure_hand_over(say: Callable[[str], None] = lambda line: None) -> dict[str, Any]:
    """Return figures of handing over."""
    found: dict[str, Any] = {"films": {}}
    effect = demo("kiln-mouth")
    textures, _ = textures_of(effect, lambda path: True)
    for form in (FilmForm.MP4, FilmForm.WEBM):
        row = _film(effect, textures, FilmOptions(form=form, width=960, height=600))
        found["films"][str(form)] = row
        say(
            f"{form}: drawing alone {row['drawing']:.1f} pictures/s, encoding alone "
            f"{row['encoding']:.1f}, both {row['both']:.1f}: {row['share']:.2f} of the slower alone"
        )
    row = found["blocks"] = _blocks()
    say(
        f"BC7 of {_SIDE} × {_SIDE} with its {_LEVELS - 1} copies: {row['ours']:.2f} s, the library "
        f"alone {row['library']:.2f} s; the copies {row['copies']:.2f} s"
    )
    begin = time.perf_counter()
    tree = bundle_of(effect)
    found["bundle"] = {"seconds": time.perf_counter() - begin, "bytes": sum(map(len, tree.values()))}
    say(
        f"a bundle of the kiln: {found['bundle']['seconds']:.1f} s, {found['bundle']['bytes'] / 2**20:.1f} MB"
    )
    return found


def _film(effect: Any, textures: Any, options: FilmOptions) -> dict[str, float]:
    plan = filmed(
        effect, textures, options, (options.width, options.height), options.behind, rate=options.rate
    )
    count = len(plan.times)
    pictures = []
    with OffscreenRenderer() as studio:
        next(plan.pictures(studio, lambda share: False))
        begin = time.perf_counter()
        for picture in plan.pictures(studio, lambda share: False):
            pictures.append(np.ascontiguousarray(picture[..., :3]))
        drawing = time.perf_counter() - begin
    with tempfile.TemporaryDirectory() as folder:
        at = Path(folder, f"film.{options.form}")
        begin = time.perf_counter()
        process = subprocess.Popen(
            encoder_line(options, plan, (options.width, options.height), os.fspath(at)), stdin=subprocess.PIPE
        )
        assert process.stdin is not None
        for picture in pictures:
            process.stdin.write(picture.tobytes())
        process.stdin.close()
        process.wait()
        encoding = time.perf_counter() - begin
        begin = time.perf_counter()
        write_film(effect, textures, options, at)
        both = time.perf_counter() - begin
    return {
        "drawing": count / drawing,
        "encoding": count / encoding,
        "both": count / both,
        "share": max(drawing, encoding) / both,
    }


def _blocks() -> dict[str, float]:
    y, x = np.mgrid[0:_SIDE, 0:_SIDE] / 90.0
    waves = [
        np.sin(x * a + y * b) * np.cos(y * c)
        for a, b, c in ((1.0, 0.4, 1.3), (0.7, 1.1, 2.0), (1.6, 0.2, 0.8), (0.3, 0.9, 1.1))
    ]
    picture = np.rint((np.stack(waves, axis=2) * 0.5 + 0.5) * 255).astype(np.uint8)
    begin = time.perf_counter()
    copies = smaller_copies(picture, Meaning.COLOR, _LEVELS)
    made = time.perf_counter() - begin
    ours, library = [], []
    raw = [
        (
            np.ascontiguousarray(
                np.pad(one, ((0, -one.shape[0] % 4), (0, -one.shape[1] % 4), (0, 0)), mode="edge")
            )
        )
        for one in copies
    ]
    for _ in range(2):
        begin = time.perf_counter()
        for one in copies:
            compressed(one, Blocks.BC7)
        ours.append(time.perf_counter() - begin)
        begin = time.perf_counter()
        for one in raw:
            etcpak.compress_bc7(one.tobytes(), one.shape[1], one.shape[0], etcpak.BC7CompressBlockParams())
        library.append(time.perf_counter() - begin)
    return {"ours": min(ours), "library": min(library), "copies": made}
