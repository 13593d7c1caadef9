"""Kernels: functions compiled once each, for one signature, into a library of their own.

Numba compiles what a function calls into the function again, and all that into whatever calls that; with
kernels that call each other this takes minutes. So a kernel calls another through its address, which it is
given as a number: nothing is compiled twice, a kernel that no effect uses is never compiled, and a changed
one leaves those that call it as they are.
"""

from __future__ import annotations

import inspect
import threading
import time
from collections.abc import Callable
from typing import Any, NamedTuple

from llvmlite import ir
from numba import njit, types
from numba.core import cgutils
from numba.core.typing.templates import Signature
from numba.extending import intrinsic

from .arrays import Int64x1D
from .bundles import Bundle, bundled
from .cache import DependentCache, is_here

OPTIONS: dict[str, Any] = {"nogil": True, "error_model": "numpy", "no_cfunc_wrapper": True}
# Without the counting of references to arrays.
LEAN: dict[str, Any] = {"_nrt": False}
# To a type checker, njit takes fewer options than it does.
_njit: Any = njit
_compiling = threading.RLock()
# Kernels are named by what follows: ``motion.forces.drag_and_wind``.
_ROOM = __name__.removesuffix("kernels.compiling")
# To a type checker, what it makes takes the context too.
_intrinsic: Any = intrinsic


class Kernel:
    """A compiled function.

    Parameters
    ----------
    function : callable
    signature : numba Signature
        The one that it is compiled for.
    entry : bool
        Whether Python calls it too; else only other kernels do.
    lean : bool
        Whether it makes no arrays, so that nobody need count who holds them.
    everyday : bool
        Whether almost every effect uses it, so that it is compiled at the first start.
    cost : float
        About how long it takes to compile, s.

    Attributes
    ----------
    call
        What another kernel calls, with this one's address before the arguments.
    seconds : float
        How long it took to compile or to load; 0 before.
    """

    def __init__(
        self,
        function: Callable[..., Any],
        signature: Signature,
        entry: bool,
        lean: bool = False,
        everyday: bool = False,
        cost: float = 0.5,
    ) -> None:
        self.name = f"{function.__module__.removeprefix(_ROOM)}.{function.__name__}"
        self.everyday, self.cost = everyday, cost
        self.__doc__ = function.__doc__
        self.signature = signature
        self.seconds = 0.0
        self._dispatcher: Any = _njit(**OPTIONS, no_cpython_wrapper=not entry, **(LEAN if lean else {}))(
            function
        )
        if is_here(function):
            self._dispatcher._cache = DependentCache(function)
        self._address = 0
        self._bundles = [(i, kind) for i, kind in enumerate(signature.args) if isinstance(kind, Bundle)]
        self.call = _caller(signature)

    @property
    def address(self) -> int:
        """Return its address; it is compiled, or loaded from the disk cache, when it is first asked for."""
        if not self._address:
            with _compiling:
                if not self._address:
                    start = time.perf_counter()
                    self._dispatcher.compile(self.signature)
                    self._dispatcher.disable_compile()
                    made = next(iter(self._dispatcher.overloads.values()))
                    self._address = made.library.get_pointer_to_function(made.fndesc.llvm_func_name)
                    self.seconds = time.perf_counter() - start
        return self._address

    @property
    def is_ready(self) -> bool:
        """Return whether it can be called at once."""
        return bool(self._address)

    @property
    def was_kept(self) -> bool:
        """Return whether it came from the disk cache."""
        return bool(sum(self._dispatcher.stats.cache_hits.values()))

    def is_kept(self) -> bool:
        """Return whether it is in the disk cache, without loading it."""
        return self._dispatcher._cache.holds(self.signature)

    def __call__(self, *args: Any) -> Any:
        if not self._address:
            _ = self.address
        handed = list(args)
        for i, kind in self._bundles:
            handed[i] = kind.address(args[i])
        return self._dispatcher(*handed)


# Every kernel by name, in the order in which they are declared.
KERNELS: dict[str, Kernel] = {}


def kernel(
    result: Any,
    *arguments: Any,
    entry: bool = False,
    lean: bool = False,
    everyday: bool = False,
    cost: float = 0.5,
) -> Callable[[Callable[..., Any]], Kernel]:
    """Declare a function as a kernel with the Numba types of its result and arguments.

    The other parameters are those of :class:`Kernel`.
    """

    def declared(function: Callable[..., Any]) -> Kernel:
        made = Kernel(function, result(*arguments), entry, lean, everyday, cost)
        KERNELS[made.name] = made
        return made

    return declared


def helper(function: Callable[..., Any]) -> Any:
    """Declare a small function that is compiled into each kernel that calls it. Python can't call it."""
    return _njit(**OPTIONS, no_cpython_wrapper=True)(function)


def lean_helper(function: Callable[..., Any]) -> Any:
    """Declare a helper that makes no arrays: where it is called for each particle, counting who holds
    them would cost most.
    """
    return _njit(**OPTIONS, no_cpython_wrapper=True, **LEAN)(function)


def inlined(function: Callable[..., Any]) -> Any:
    """Declare a function whose code is put where it is called: quicker to compile than a helper that is
    called once.
    """
    return _njit(inline="always")(function)


def _caller(signature: Signature) -> Any:
    """Return what calls a function of a signature at an address, by Numba's own calling convention."""

    def called(typing: Any, address: Any, *args: Any) -> Any:
        """Return the type and the code of a call by address."""

        def code(context: Any, builder: Any, whole: Any, values: Any) -> Any:
            convention = context.call_conv
            kind = convention.get_function_type(signature.return_type, signature.args)
            pointer = builder.inttoptr(values[0], kind.as_pointer())
            target = _Pointer(pointer, kind)
            status, found = convention.call_function(
                builder, target, signature.return_type, signature.args, values[1:]
            )
            with cgutils.if_unlikely(builder, status.is_error):
                convention.return_status_propagate(builder, status)
            return found

        return signature.return_type(types.int64, *signature.args), code

    # Numba reads the arguments' names from here, and would take a starred one for a tuple.
    names = ["typing", "address", *(f"a{i}" for i in range(len(signature.args)))]
    kind = inspect.Parameter.POSITIONAL_OR_KEYWORD
    called.__signature__ = inspect.Signature([inspect.Parameter(name, kind) for name in names])  # type: ignore[attr-defined]
    return _intrinsic(called)


class _Pointer:
    """A function pointer that looks like a function to Numba's calling convention."""

    def __init__(self, pointer: Any, kind: ir.FunctionType) -> None:
        self.function_type = kind
        self.type = pointer.type
        self._pointer = pointer

    def get_reference(self) -> str:
        return str(self._pointer.get_reference())


@bundled
class Calls(NamedTuple):
    """Addresses of the kernels that kernels call; ``forces`` of those that push, one behind the other."""

    values: int
    at_clock: int
    drag: int
    stir: int
    push: int
    glide: int
    speeds: int
    orbit: int
    limit: int
    spawn: int
    place: int
    pose: int
    carried: int
    take_along: int
    glitter: int
    bear: int
    advance: int
    contact: int
    record: int
    stand_props: int
    receive: int
    forces: Int64x1D
