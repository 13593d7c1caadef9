"""Films of an effect: MP4, WebM, GIF, WebP, APNG."""

from __future__ import annotations

import os
import queue
import subprocess
import threading
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...drawing.offscreen import OffscreenRenderer, straight
from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.kinds import Behind, FilmForm
from ...effect.storing.whole_files import shown_path, whole_file
from ...textures.prepared import Prepared
from ..product_options import FilmOptions
from ..stopping import Progress
from .filming import Filming, filmed

# Pictures that are drawn ahead of the encoder.
_AHEAD = 4
Pixels = NDArray[np.uint8]


class _Form(NamedTuple):
    """How a form is written: whether it can be clear, and the encoder's words for a quality 0…1 and
    whether it is.
    """

    can_be_clear: bool
    even: bool
    words: Callable[[float, bool], list[str]]


def _quantizer(quality: float, best: int, worst: int) -> str:
    return str(round(worst + (best - worst) * quality))


_TAGS = ["-color_primaries", "bt709", "-color_trc", "iec61966-2-1", "-colorspace", "bt709"]
_TO_YUV = "scale=out_color_matrix=bt709:out_range=tv"
_FORMS: dict[FilmForm, _Form] = {
    FilmForm.MP4: _Form(
        False,
        True,
        lambda quality, clear: [
            "-vf",
            _TO_YUV,
            "-c:v",
            "libx264",
            "-preset",
            "veryfast",
            "-crf",
            _quantizer(quality, 12, 36),
            "-pix_fmt",
            "yuv420p",
            *_TAGS,
            "-movflags",
            "+faststart",
            "-f",
            "mp4",
        ],
    ),
    FilmForm.WEBM: _Form(
        True,
        True,
        lambda quality, clear: [
            "-vf",
            _TO_YUV,
            "-c:v",
            "libvpx-vp9",
            "-crf",
            _quantizer(quality, 14, 50),
            "-b:v",
            "0",
            "-deadline",
            "realtime",
            "-cpu-used",
            "5",
            "-row-mt",
            "1",
            "-pix_fmt",
            "yuva420p" if clear else "yuv420p",
            "-auto-alt-ref",
            "0" if clear else "1",
            *_TAGS,
            "-f",
            "webm",
        ],
    ),
    FilmForm.GIF: _Form(
        True,
        False,
        lambda quality, clear: [
            "-filter_complex",
            f"split[a][b];[a]palettegen=reserve_transparent={int(clear)}:stats_mode=diff[p];[b][p]paletteuse=dither=sierra2_4a:diff_mode=rectangle",
            "-loop",
            "0",
            "-f",
            "gif",
        ],
    ),
    FilmForm.WEBP: _Form(
        True,
        False,
        lambda quality, clear: [
            "-c:v",
            "libwebp_anim",
            "-lossless",
            str(int(quality >= 1.0)),
            "-quality",
            _quantizer(quality, 100, 30),
            "-compression_level",
            "3",
            "-pix_fmt",
            "bgra" if clear or quality >= 1.0 else "yuv420p",
            "-loop",
            "0",
            "-f",
            "webp",
        ],
    ),
    FilmForm.APNG: _Form(
        True,
        False,
        lambda quality, clear: [
            "-c:v",
            "apng",
            "-pix_fmt",
            "rgba" if clear else "rgb24",
            "-plays",
            "0",
            "-f",
            "apng",
        ],
    ),
}


def write_film(
    effect: Effect,
    textures: Mapping[str, Prepared],
    options: FilmOptions,
    path: str | os.PathLike[str],
    progress: Progress = lambda share: False,
    inputs: tuple[str | os.PathLike[str], ...] = (),
) -> None:
    """Write a film of an effect, whole or not at all.

    Raises
    ------
    EffectError
        If there is no encoder or no OpenGL here, or the file can't be written; what was there before stays.
    Stopped
    """
    form = _FORMS[options.form]
    even = 2 if form.even else 1
    size = (max(options.width // even * even, even), max(options.height // even * even, even))
    behind = options.behind if form.can_be_clear or options.behind != Behind.NOTHING else Behind.BLACK
    plan = filmed(effect, textures, options, size, behind, rate=options.rate, loops=options.loops)
    with whole_file(path, inputs) as temporary:
        _encode(
            encoder_line(options, plan, size, os.fspath(temporary)),
            plan,
            options.form == FilmForm.GIF,
            progress,
            shown_path(path),
        )


def encoder_line(options: FilmOptions, plan: Filming, size: tuple[int, int], path: str) -> list[str]:
    """Return the encoder's command line; pictures come to it as pixels without anything between."""
    return [
        _encoder(),
        "-hide_banner",
        "-loglevel",
        "error",
        "-nostdin",
        "-y",
        "-f",
        "rawvideo",
        "-pix_fmt",
        "rgba" if plan.clear else "rgb24",
        "-s",
        f"{size[0]}x{size[1]}",
        "-framerate",
        f"{options.rate:g}",
        "-i",
        "pipe:0",
        "-an",
        *_FORMS[options.form].words(options.quality, plan.clear),
        path,
    ]


def _encoder() -> str:
    """Return the path of the program that encodes films."""
    try:
        import imageio_ffmpeg

        found = imageio_ffmpeg.get_ffmpeg_exe()
    except (ImportError, RuntimeError):
        raise EffectError(
            "film.form",
            "there is no encoder here for films: the package imageio-ffmpeg is missing. Install it, or "
            "bake frames or a sheet.",
        ) from None
    if not Path(found).is_file():
        raise EffectError(
            "film.form",
            "the encoder for films has gone from where it was installed; install the package "
            "imageio-ffmpeg anew.",
        )
    return str(found)


def _encode(line: list[str], plan: Filming, hard: bool, progress: Progress, place: str) -> None:
    """Draw, and let an encoder write at the same time.

    A thread hands pictures over, so that both cores work.
    """
    try:
        process = subprocess.Popen(
            line, stdin=subprocess.PIPE, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE
        )
    except OSError as wrong:
        raise EffectError(
            place, f"the encoder doesn't start: {(wrong.strerror or str(wrong)).lower()}."
        ) from None
    assert process.stdin is not None and process.stderr is not None
    ahead: queue.Queue[Pixels | None] = queue.Queue(_AHEAD)
    failed = threading.Event()

    def hand_over() -> None:
        while (picture := ahead.get()) is not None:
            if not failed.is_set():
                try:
                    process.stdin.write(picture.tobytes())  # type: ignore[union-attr]
                except (OSError, ValueError):
                    failed.set()

    said: list[bytes] = []
    listening = threading.Thread(target=lambda: said.append(process.stderr.read()), name="encoder's words")  # type: ignore[union-attr]
    handing = threading.Thread(target=hand_over, name="encoder")
    listening.start()
    handing.start()
    done = False
    try:
        with OffscreenRenderer() as studio:
            for picture in _as_wanted(plan.pictures(studio, progress), plan.clear, hard):
                if failed.is_set():
                    break
                ahead.put(picture)
        done = True
    finally:
        ahead.put(None)
        if not done:
            process.kill()
        handing.join()
        try:
            process.stdin.close()
        except OSError:
            failed.set()
        status = process.wait()
        listening.join()
        process.stderr.close()
    if failed.is_set() or status != 0:
        words = (said[0].decode(errors="replace").strip().splitlines() or ["it gave no reason"])[-1]
        if "No space left" in words:
            words = "no space left on device"
        raise EffectError(place, f"the film can't be written: {words[:1].lower()}{words[1:200]}.")


def _as_wanted(pictures: Iterator[Pixels], clear: bool, hard: bool) -> Iterator[Pixels]:
    """Yield pictures as encoders take them: straight colours; of those that know no half cover, all or
    nothing.
    """
    for picture in pictures:
        if not clear:
            yield np.ascontiguousarray(picture[..., :3])
            continue
        found = straight(picture)
        if hard:
            found[..., 3] = np.where(found[..., 3] >= 96, 255, 0)
        yield found
