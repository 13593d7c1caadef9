"""Compiling the kernels ahead of their first use, and saying so."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ..effect.effect import Effect, Layer

STAGES = ("dice and shapes", "motion and births", "appearance")


def prepare(progress: Callable[[int, int, str], None] | None = None) -> None:
    """Compile, or load from the disk cache, every kernel that a simulation uses.

    Parameters
    ----------
    progress : callable, optional
        Called with the number done, the number in all, and what is being prepared.
    """
    for done, name in enumerate(_stages()):
        if progress is not None:
            progress(done, len(STAGES), name)
    if progress is not None:
        progress(len(STAGES), len(STAGES), "")


def _stages() -> Iterator[str]:
    from .biography import Single
    from .layer_run import LayerRun
    from .shapes import birth

    effect = Effect(layers=(Layer(id="a"),))
    run = LayerRun(effect, effect.layers[0])
    yield STAGES[0]
    import numpy as np

    birth(run._course.shape, np.uint32(1), 0)
    yield STAGES[1]
    run.seek(1)
    yield STAGES[2]
    run.show()
    single = Single(effect, effect.layers[0])
    single.instances(single.life(0, 0.0), [0.5])
