"""Asks tests in forks of a process that has loaded the program, so that a fault costs no start of its own.

A fault is put in as the code of the function that it lies in, in the fork alone. That can't be done for
kernels, which are compiled, and for what has run while modules were loaded, such as declarations of fields;
:mod:`.faults` puts those into the files of a copy.
"""

from __future__ import annotations

import ast
import functools
import importlib
import os
import signal
import sys
import time
import types
import unittest
from pathlib import Path
from typing import Any

CANNOT = "can't be put in"


def load_all(names: list[str]) -> None:
    """Load test modules, with all that they test, and the kernels that are compiled already."""
    for name in names:
        importlib.import_module(f"tests.{name}")
    from pale_ember.simulation.kernels.compiling import KERNELS

    for kernel in KERNELS.values():
        # Kernels of tests have no cache.
        if not kernel.name.startswith("tests.") and kernel.is_kept():
            _ = kernel.address


def _way_to(tree: ast.AST, line: int) -> list[ast.ClassDef | ast.FunctionDef]:
    """Return the classes around a line, and the outermost function that it lies in; empty if in none."""
    way: list[ast.ClassDef | ast.FunctionDef] = []
    node: ast.AST = tree
    while not (way and isinstance(way[-1], ast.FunctionDef)):
        around = [
            child
            for child in ast.iter_child_nodes(node)
            if isinstance(child, ast.ClassDef | ast.FunctionDef)
            and child.lineno <= line <= (child.end_lineno or 0)
        ]
        if not around:
            return []
        node = around[0]
        way.append(around[0])
    return way


def _functions_of(found: Any) -> list[types.FunctionType]:
    """Return the plain functions in what stands in a class or module under a name."""
    match found:
        case types.FunctionType():
            inner = getattr(found, "__wrapped__", None)
            return [found, *_functions_of(inner)]
        case property():
            return [one for part in (found.fget, found.fset) for one in _functions_of(part)]
        case staticmethod() | classmethod():
            return _functions_of(found.__func__)
        case functools.cached_property():
            return _functions_of(found.func)
    if hasattr(found, "cache_clear"):
        found.cache_clear()
        return _functions_of(found.__wrapped__)
    return []


def _code_in(code: types.CodeType, name: str, line: int) -> types.CodeType | None:
    """Return the code of the function of a name that begins at a line."""
    for inside in code.co_consts:
        if isinstance(inside, types.CodeType):
            if (inside.co_name, inside.co_firstlineno) == (name, line):
                return inside
            if (deeper := _code_in(inside, name, line)) is not None:
                return deeper
    return None


def put_in(file: Path, line: int, before: str, after: str) -> bool:
    """Give the function of a file that a line lies in the code that it has in another text; return whether
    that could be done.

    Parameters
    ----------
    file : Path
        From the project's top folder.
    before, after : str
        The whole file as it is, and with the fault.
    """
    way = _way_to(ast.parse(before), line)
    if not way:
        return False
    module = importlib.import_module(".".join(file.relative_to("src").with_suffix("").parts))
    scope: Any = vars(module)
    for around in way[:-1]:
        scope = vars(scope[around.name])
    function = way[-1]
    first = min([function.lineno, *(one.lineno for one in function.decorator_list)])
    code = _code_in(compile(after, str(file), "exec"), function.name, first)
    meant = [one for one in _functions_of(scope.get(function.name)) if one.__code__.co_firstlineno == first]
    if code is None or not meant:
        return False
    for one in meant:
        one.__code__ = code
    return True


def failed_in_fork(name: str, fault: tuple[Path, int, str, str], patience: float) -> str:
    """Return the first test of a module that fails with a fault, "" if all pass, or ``CANNOT``. A module that
    takes longer than ``patience``, s, hangs. The fault is given as to :func:`put_in`.
    """
    sys.stdout.flush()
    read, write = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(read)
        _answer(name, fault, write)
    os.close(write)
    end, done, status = time.monotonic() + patience, 0, 0
    while not done and time.monotonic() < end:
        done, status = os.waitpid(child, os.WNOHANG)
        time.sleep(0.05)
    # It has a group of its own, with all that its tests started.
    try:
        os.killpg(child, signal.SIGKILL)
    except ProcessLookupError:
        pass
    if not done:
        os.waitpid(child, 0)
    with os.fdopen(read, encoding="utf-8") as pipe:
        told = pipe.read()
    if not done:
        return "hangs"
    return told or ("nothing ran" if status else "")


def _answer(name: str, fault: tuple[Path, int, str, str], pipe: int) -> None:
    """Be the fork: put the fault in, run the tests, and tell which fails."""
    os.setsid()
    quiet = os.open(os.devnull, os.O_WRONLY)
    os.dup2(quiet, 1)
    os.dup2(quiet, 2)
    try:
        if not put_in(*fault):
            os.write(pipe, CANNOT.encode())
            os._exit(0)
        suite = unittest.TestLoader().loadTestsFromName(f"tests.{name}")
        result = unittest.TextTestRunner(failfast=True, stream=open(os.devnull, "w")).run(suite)  # noqa: SIM115
        for test, _ in [*result.failures, *result.errors][:1]:
            os.write(pipe, test.id().rpartition(".")[2].encode())
    except BaseException as wrong:  # a fault may do anything
        os.write(pipe, f"tests end with {type(wrong).__name__}".encode())
    os._exit(0)
