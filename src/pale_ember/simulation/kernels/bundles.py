"""Bundles: what a layer hands to its kernels, by the address of one block of memory.

A kernel that took a bundle of sixty arrays by value would take five hundred arguments, and hand them to
whatever it calls; compiling that takes most of a minute, and each call copies them. So a bundle is laid down
once as a row of 64-bit words, and a kernel takes the address of the row. To kernels it looks as it does to
Python: ``program.clock.rate``.

A number is one word, a bundle inside another the address of its own row, an array the address of its data and
its shape. What the words say stays as it is while a kernel runs; the arrays' contents may change.
"""

from __future__ import annotations

import functools
import struct
from collections.abc import Callable
from typing import Annotated, Any, TypeVar, get_origin, get_type_hints

import numpy as np
from llvmlite import ir
from numba import types
from numba.core.datamodel import models
from numba.core.typeconv.castgraph import Conversion
from numba.core.typing.templates import AttributeTemplate, infer_getattr
from numba.extending import lower_getattr_generic, register_model, unbox
from numba.np import arrayobj
from numba.np.numpy_support import as_dtype
from numpy.typing import NDArray

Kind = TypeVar("Kind", bound=type)
_WORD = ir.IntType(64)
_NUMBERS = {bool: types.boolean, int: types.int64, float: types.float64}
_REAL, _WHOLE = struct.Struct("d"), struct.Struct("q")


def bundled(kind: Kind) -> Kind:
    """Make a named tuple a bundle, which remembers the words that were laid down for it."""
    own = {"__doc__": kind.__doc__, "__module__": kind.__module__, "__qualname__": kind.__qualname__}
    return type(kind.__name__, (kind,), own)  # type: ignore[return-value]


class Bundle(types.Type):
    """The Numba type of a bundle's address.

    Parameters
    ----------
    kind : type
        A bundled named tuple, whose annotations say what its fields are: arrays of :mod:`.arrays`, ``int``,
        ``float``, ``bool``, and other bundled named tuples.

    Raises
    ------
    TypeError
        If a field is annotated with anything else.
    """

    def __init__(self, kind: Any) -> None:
        hints = get_type_hints(kind, include_extras=True)
        self.parts = {name: _part_type(f"{kind.__name__}.{name}", hints[name]) for name in kind._fields}
        self.places, at = {}, 0
        for name, part in self.parts.items():
            self.places[name] = at
            at += 1 + (part.ndim if isinstance(part, types.Array) else 0)
        super().__init__(
            name=f"{kind.__name__}({', '.join(f'{name}={part}' for name, part in self.parts.items())})"
        )

    def can_convert_from(self, typing: Any, other: Any) -> Any:
        """Python hands over addresses."""
        return Conversion.safe if other == types.int64 else None

    def address(self, bundle: Any) -> int:
        """Return the address of a bundle's words, laid down when it is first asked for.

        The bundle must be kept for as long as the address is used.

        Raises
        ------
        TypeError
            If an array in it is not of the type, or does not lie in C order.
        """
        known = bundle.__dict__.get("_words")
        if known is None:
            found: list[int] = []
            for part, write in zip(bundle, _writers(self), strict=True):
                write(part, found)
            words = np.array(found)
            # Of two threads that lay it down at once the first one's words stay: a kernel may read them
            # already.
            known = bundle.__dict__.setdefault("_words", (words, _place(words)))
        return int(known[1])


@functools.cache
def bundle_type(kind: Any) -> Bundle:
    """Return the Numba type of a bundled named tuple."""
    return Bundle(kind)


def _part_type(name: str, hint: Any) -> Any:
    """Return the Numba type of a field by its annotation."""
    if get_origin(hint) is Annotated:
        return hint.__metadata__[0]
    if hint in _NUMBERS:
        return _NUMBERS[hint]
    if hasattr(hint, "_fields"):
        return bundle_type(hint)
    raise TypeError(f"{name} is annotated with {hint}, which kernels can't read")


def _place(array: NDArray[Any]) -> int:
    return array.__array_interface__["data"][0]


@functools.cache
def _writers(bundle: Bundle) -> list[Callable[[Any, list[int]], None]]:
    """Return what adds the words of each field to a list: worked out once, as a step lays down many bundles.

    The bundle itself can't hold it: Numba writes types to its disk cache.
    """
    return [_writer(part) for part in bundle.parts.values()]


def _writer(kind: Any) -> Callable[[Any, list[int]], None]:
    """Return what adds the words of a field of a type to a list."""
    if isinstance(kind, types.Array):
        return _array_writer(kind, kind.ndim, as_dtype(kind.dtype))
    if isinstance(kind, Bundle):
        return lambda part, words: words.append(kind.address(part))
    if kind == types.float64:
        return lambda part, words: words.append(_WHOLE.unpack(_REAL.pack(part))[0])
    return lambda part, words: words.append(int(part))


def _array_writer(kind: Any, ndim: int, dtype: Any) -> Callable[[Any, list[int]], None]:
    def write(part: Any, words: list[int]) -> None:
        if part.ndim != ndim or part.dtype != dtype or not part.flags.c_contiguous:
            raise TypeError(f"an array of {part.ndim} dimensions of {part.dtype} was given for {kind}")
        words.append(_place(part))
        words.extend(part.shape)

    return write


@register_model(Bundle)
class _Model(models.PrimitiveModel):
    def __init__(self, manager: Any, kind: Any) -> None:
        super().__init__(manager, kind, _WORD)


@unbox(Bundle)
def _unbox(kind: Any, given: Any, made: Any) -> Any:
    return made.unbox(types.int64, given)


@infer_getattr
class _Parts(AttributeTemplate):
    key = Bundle

    def generic_resolve(self, kind: Any, name: str) -> Any:  # type: ignore[override]
        return kind.parts.get(name)


@lower_getattr_generic(Bundle)
def _read(context: Any, builder: Any, kind: Any, value: Any, name: str) -> Any:
    """Return the code that reads a field of a bundle."""
    part, first = kind.parts[name], kind.places[name]
    row = builder.inttoptr(value, _WORD.as_pointer())

    def word(i: int) -> Any:
        found = builder.load(builder.gep(row, [ir.Constant(_WORD, first + i)], inbounds=True))
        # Compilers may read it once and keep it, whatever is written to arrays meanwhile.
        found.set_metadata("invariant.load", builder.module.add_metadata([]))
        return found

    if isinstance(part, types.Array):
        array = arrayobj.make_array(part)(context, builder)
        item = context.get_abi_sizeof(context.get_data_type(part.dtype))
        shape = [word(1 + i) for i in range(part.ndim)]
        strides = [ir.Constant(_WORD, item)]
        for size in shape[:0:-1]:
            strides.insert(0, builder.mul(strides[0], size))
        arrayobj.populate_array(
            array,
            builder.inttoptr(word(0), array.data.type),
            shape,
            strides,
            ir.Constant(_WORD, item),
            meminfo=None,
        )
        return array._getvalue()
    if part == types.float64:
        return builder.bitcast(word(0), ir.DoubleType())
    if part == types.boolean:
        return builder.icmp_unsigned("!=", word(0), ir.Constant(_WORD, 0))
    return word(0)
