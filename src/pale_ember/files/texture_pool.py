"""An effect's textures beside the window: a thread reads, makes, watches; the newest of each is at hand
at once.
"""

from __future__ import annotations

import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field

from ..effect.chapters.stage import Prop
from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.textures import Texture
from ..newest import Newest
from ..textures.coarse import coarser
from ..textures.making.memory import BuildMemory
from ..textures.prepared import Prepared
from ..textures.showing import prepare
from .built_textures import kept_on_disk
from .textures import (
    Key,
    Trusted,
    key_of,
    load_texture,
    place_of,
    read_prop_meshes,
    state_of,
    states_of,
    unknown_names,
    wanted,
)

# How often files are looked at, s; how long one must rest before it is read, and how long a broken one is
# waited for.
WATCH, REST, PATIENCE = 0.3, 0.25, 1.5
# How soon a texture that could not be had yet is looked at again, s.
SOON = 0.03
# Prepared textures that are kept besides those in use, and their bytes: undo brings them back at once.
KEPT, MOST = 48, 384 << 20


@dataclass(frozen=True)
class PoolState:
    """What is known at a moment.

    Attributes
    ----------
    ready : dict
        Textures by name; of one that is made anew or broken now, the last that was whole.
    problems : tuple of EffectError
    working : str
        The name of the texture that is being made; empty for none.
    share : float
        How much of it is done.
    coarse : frozenset of str
        Those of which a coarse one stands in while the whole one is being made, or because that was stopped.
    """

    ready: dict[str, Prepared] = field(default_factory=dict)
    problems: tuple[EffectError, ...] = ()
    working: str = ""
    share: float = 0.0
    coarse: frozenset[str] = frozenset()


class TexturePool:
    """Holds the textures of the effect that it was last given. ``version`` grows with each change of its
    state.
    """

    def __init__(
        self, trusted: Trusted = lambda path: True, changed: Callable[[], None] = lambda: None
    ) -> None:
        self.trusted = trusted
        # Called from its thread whenever its state is another.
        self.changed = changed
        self.memory = BuildMemory()
        # Whether textures can be shown over a backdrop without compiling anything first.
        self.can_show = False
        self.version = 0
        self.state = PoolState()
        self._effect = Effect()
        # Whether all is there is told of the effect that was taken last.
        self._lock = threading.Lock()
        self._stopped = False
        self._busy = True
        self._kept: OrderedDict[Key, Prepared] = OrderedDict()
        self._keys: dict[str, Key] = {}
        self._wrong: dict[str, tuple[Key, EffectError]] = {}
        # Of which a coarse one is shown, by what it was made of.
        self._coarse: dict[str, Key] = {}
        self._seen: dict[str, tuple[tuple[int, int], float]] = {}
        # The props whose meshes were read last, and what is wrong with them.
        self._props: tuple[tuple[Prop, ...], tuple[EffectError, ...]] = ((), ())
        self._newest = Newest("textures", self._work, lambda overtaken: self._work(self._effect, overtaken))
        self._newest.ask(self._effect)

    def take(self, effect: Effect) -> None:
        """Go on with another effect; returns at once."""
        with self._lock:
            if (
                effect.textures is self._effect.textures
                and effect.layers is self._effect.layers
                and effect.stage is self._effect.stage
            ):
                return
            self._effect, self._stopped, self._busy = effect, False, True
        self._newest.ask(effect)

    @property
    def busy(self) -> bool:
        """Return whether something is still to be read or made."""
        return self._busy

    def look_again(self) -> None:
        """Ask all files anew, as after one was chosen."""
        with self._lock:
            self._wrong.clear()
            self._stopped, self._busy = False, True
        self._newest.ask(self._effect)

    def stop(self) -> None:
        """Give up what is being made; it is taken up again with the next edit."""
        self._stopped = True

    def close(self) -> None:
        """End its thread."""
        self._newest.end()

    def wait(self, seconds: float = 60.0) -> bool:
        """Wait until all is there, for tests and for pictures that are written; return whether it is."""
        end = time.monotonic() + seconds
        while self._busy and time.monotonic() < end:
            time.sleep(0.01)
        return not self._busy

    def _tell(self, ready: dict[str, Prepared] | None = None, working: str = "", share: float = 0.0) -> None:
        """Tell the newest state of all textures."""
        effect = self._effect
        names = dict(wanted(effect))
        problems = [
            EffectError(place_of(effect, name, wrong.place), wrong.reason)
            for name, (_, wrong) in self._wrong.items()
            if name in names
        ]
        problems += [*unknown_names(effect), *self._props[1]]
        known = self.state.ready if ready is None else ready
        fresh = PoolState(
            known, tuple(problems), working, share, frozenset(name for name in self._coarse if name in known)
        )
        same = (
            fresh.ready is self.state.ready
            and fresh.working == self.state.working
            and fresh.share == self.state.share
            and fresh.coarse == self.state.coarse
            and [str(one) for one in fresh.problems] == [str(one) for one in self.state.problems]
        )
        if not same:
            self.state = fresh
            self.version += 1
            self.changed()

    def _work(self, effect: Effect, overtaken: Callable[[], bool]) -> float:
        """Bring the textures of an effect up to date; return when they are to be looked at again, s."""
        done = self._round(effect)
        with self._lock:
            if effect is self._effect:
                self._busy = not done
        return WATCH if done else SOON

    def want_showing(self) -> None:
        """Make ready, beside the window, what shows textures over a backdrop."""
        if not self.can_show:
            threading.Thread(target=self._prepare_showing, daemon=True, name="showing").start()

    def _prepare_showing(self) -> None:
        prepare()
        self.can_show = True
        self.version += 1
        self.changed()

    def _round(self, effect: Effect) -> bool:
        """Bring all textures up to date; return whether they are."""
        all_done = True
        names = dict(wanted(effect))
        gone = [name for name in self.state.ready if name not in names]
        if gone:
            self._tell({name: ready for name, ready in self.state.ready.items() if name in names})
        for name in gone:
            self._keys.pop(name, None)
            self._coarse.pop(name, None)
        for name, texture in names.items():
            if effect is not self._effect:
                return False
            key = key_of(effect, texture, self.trusted)
            if self._keys.get(name) == key or (name in self._wrong and self._wrong[name][0] == key):
                continue
            if not all(self._rests(file, file) for file in texture.files()):
                all_done = False
                continue
            all_done &= self._load(effect, name, texture, key)
        if effect.stage.props != self._props[0]:
            self._props = (effect.stage.props, tuple(read_prop_meshes(effect)))
            self.version += 1
        for name in [name for name in self._wrong if name not in names]:
            del self._wrong[name]
        self._tell()
        return all_done

    def _rests(self, name: str, path: str) -> bool:
        """Return whether a file was not written to for a while; one that is seen for the first time does."""
        state, now = state_of(path), time.monotonic()
        known = self._seen.get(name)
        if known is None or known[0] != state:
            self._seen[name] = (state, now)
            return known is None
        return now - known[1] >= REST

    def _load(self, effect: Effect, name: str, texture: Texture, key: Key) -> bool:
        """Load one texture, or tell why it can't be had."""
        ready = self._kept.get(key)
        if ready is None:

            def told(share: float) -> bool:
                if self._is_another(effect, name, texture):
                    return True
                if share - self.state.share > 0.05 or self.state.working != name:
                    self._tell(working=name, share=share)
                return self._stopped or self._newest.has_ended

            try:
                self._show_coarse(effect, name, texture, key)
                ready = (
                    None if self._stopped else load_texture(effect, texture, self.trusted, told, self.memory)
                )
            except Exception as problem:
                # A mistake of ours in one texture must leave the others as they are.
                wrong = (
                    problem
                    if isinstance(problem, EffectError)
                    else EffectError(
                        "file" if texture.file else "build.steps",
                        f"it can't be made here ({type(problem).__name__}: {problem}).",
                    )
                )
                self._coarse.pop(name, None)
                files = texture.files() or (texture.file,)
                fresh = name in self._keys and any(
                    time.monotonic() - self._seen[one][1] < PATIENCE for one in files if one in self._seen
                )
                if fresh and all(state_of(one)[1] for one in files):
                    return False  # another program may still be writing it
                self._wrong[name] = (key, wrong)
                self._keys.pop(name, None)
                self._without(name)
                return True
            if ready is None:
                return self._stopped
        self._kept[key] = ready
        self._kept.move_to_end(key)
        while len(self._kept) > 1 and (
            len(self._kept) > KEPT or sum(one.memory for one in self._kept.values()) > MOST
        ):
            self._kept.popitem(last=False)
        self._keys[name] = key
        self._wrong.pop(name, None)
        self._coarse.pop(name, None)
        self._tell({**self.state.ready, name: ready})
        return True

    def _is_another(self, effect: Effect, name: str, texture: Texture) -> bool:
        """Return whether an edit has overtaken the making of a texture."""
        now = self._effect
        return now is not effect and dict(wanted(now)).get(name) != texture

    def _show_coarse(self, effect: Effect, name: str, texture: Texture, key: Key) -> None:
        """Show a coarse version of a build at once if the whole one takes long."""
        coarse = coarser(texture)
        if (
            coarse is None
            or self._coarse.get(name) == key
            or kept_on_disk(texture, states_of(texture, self.trusted))
        ):
            return
        self._tell(working=name, share=0.0)
        ready = load_texture(
            effect, coarse, self.trusted, lambda share: self._is_another(effect, name, texture), self.memory
        )
        if ready is not None:
            self._coarse[name] = key
            self._keys.pop(name, None)
            self._wrong.pop(name, None)
            self._tell({**self.state.ready, name: ready}, name)

    def _without(self, name: str) -> None:
        self._tell({known: ready for known, ready in self.state.ready.items() if known != name})
