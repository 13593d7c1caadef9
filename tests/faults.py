"""Puts single-line faults into the program by chance, and asks the tests of the room whether they notice.

Usage::

    python -m tests.faults SEED COUNT [--from N] [--limit SECONDS] [ROOM …]

It puts COUNT faults into files of rooms, such as ``simulation.contact``, one after the other. A fault in a
plain function goes into a loaded program, whose forks ask the tests (:mod:`.forked`); any other into a copy
of the project below the system's temporary folder. It prints for each whether it was noticed, by which
test, and what the fault was. The last line counts them. Asked are all tests of the room in the top folder,
such as ``simulation``, those first that stand nearest to the file and have most to do with it; the first
that fails ends a fault. A fault that changes nothing that can be seen, such as the size of a reserve, is no
fault: who reads the list leaves it out.

With ``--from`` the first N faults of the seed are left out, so that a long run can be made in parts, of the
same commit. With ``--limit`` a fault counts as missed once its tests have taken so long.
"""

from __future__ import annotations

import argparse
import ast
import functools
import itertools
import math
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from .__main__ import modules
from .forked import CANNOT, failed_in_fork, load_all

TOP = Path(__file__).resolve().parents[1]
SOURCE = Path("src/pale_ember")
# So long the tests of one module may take, s: a fault that makes them hang is noticed.
PATIENCE = 600.0
# What test modules are told by that compare texts and pictures with those that were read.
COMPARING = {"compare_text", "assert_says", "assert_looks", "GestureCase"}
SWAPS: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Add,
    ast.Div: ast.Mult,
    ast.And: ast.Or,
    ast.Or: ast.And,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
}


class Fault(NamedTuple):
    """One statement of a file, as it is and as it is to be."""

    file: Path
    line: int
    old: str
    new: str
    text: str


def _spots(tree: ast.AST) -> list[tuple[ast.stmt, ast.AST]]:
    """Return the places in a tree where something can be another, each with its statement."""
    found: list[tuple[ast.stmt, ast.AST]] = []
    simple = (ast.Assign, ast.AugAssign, ast.Return, ast.Expr, ast.AnnAssign)
    for node in ast.walk(tree):
        if not isinstance(node, ast.FunctionDef):
            continue
        for part in ast.walk(node):
            if isinstance(part, ast.If | ast.While):
                found += [(part, inside) for inside in ast.walk(part.test)]
            elif isinstance(part, simple) and not _is_text(part):
                found += [(part, inside) for inside in ast.walk(part)]
    return [(whole, inside) for whole, inside in found if _can_change(inside)]


def _is_text(node: ast.stmt) -> bool:
    return isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)


def _can_change(node: ast.AST) -> bool:
    if isinstance(node, ast.Constant):
        return isinstance(node.value, bool | int | float)
    if isinstance(node, ast.Compare):
        return type(node.ops[0]) in SWAPS
    if isinstance(node, ast.BinOp | ast.AugAssign | ast.BoolOp):
        return type(node.op) in SWAPS
    return isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not | ast.USub)


def _change(node: ast.AST, dice: random.Random) -> None:
    """Make a place another one."""
    if isinstance(node, ast.Constant):
        value = node.value
        if isinstance(value, bool):
            node.value = not value
        else:
            assert isinstance(value, int | float)
            node.value = dice.choice([value + 1, value - 1] if isinstance(value, int) else [value * 1.5, 0.0])
    elif isinstance(node, ast.Compare):
        node.ops[0] = SWAPS[type(node.ops[0])]()  # type: ignore[assignment]
    elif isinstance(node, ast.BinOp | ast.AugAssign | ast.BoolOp):
        node.op = SWAPS[type(node.op)]()  # type: ignore[assignment]
    elif isinstance(node, ast.UnaryOp):
        node.op = ast.UAdd() if isinstance(node.op, ast.USub) else ast.Not()
        if isinstance(node.op, ast.Not):
            node.operand = ast.UnaryOp(ast.Not(), node.operand)


def fault_in(file: Path, dice: random.Random) -> Fault | None:
    """Return a fault in a file by chance; None where nothing can be another."""
    text = (TOP / file).read_text(encoding="utf-8")
    tree = ast.parse(text)
    spots = _spots(tree)
    if not spots:
        return None
    whole, inside = dice.choice(spots)
    lines = text.split("\n")
    is_head = isinstance(whole, ast.If | ast.While)
    first, last = whole.lineno, (whole.body[0].lineno - 1 if is_head else whole.end_lineno)  # type: ignore[attr-defined]
    old = ast.unparse(whole.test if is_head else whole)  # type: ignore[attr-defined]
    _change(inside, dice)
    new = ast.unparse(whole.test if is_head else whole)  # type: ignore[attr-defined]
    indent = " " * (len(lines[first - 1]) - len(lines[first - 1].lstrip()))
    word = re.match(r"\s*(if|elif|while)\b", lines[first - 1])
    line = f"{indent}{word[1]} {new}:" if is_head and word else f"{indent}{new}"
    changed = "\n".join([*lines[: first - 1], line, *lines[last:]])
    if old == new or (is_head and (not word or lines[first - 1].rstrip().endswith("\\"))):
        return None
    try:
        ast.parse(changed)
    except SyntaxError:
        return None
    return Fault(file, first, old, new, changed)


def tests_of(file: Path) -> list[str]:
    """Return the test modules of a file's room, the nearest first: of those the ones that compare all with
    what was read, and the ones that name what the file declares.
    """
    room = file.relative_to(SOURCE).parent
    top = TOP / "tests" / (room.parts[0] if room.parts else "")
    near_to = TOP / "tests" / room
    while not near_to.is_dir():
        near_to = near_to.parent
    names = set(re.findall(r"^(?:class|def) (\w+)", (TOP / file).read_text(encoding="utf-8"), re.M))
    marks = {name for name in names if not name.startswith("_")} | {file.stem}

    def near(test: Path) -> tuple[bool, bool, int, int]:
        words = set(re.findall(r"\w+", test.read_text(encoding="utf-8")))
        return (
            not test.is_relative_to(near_to),
            not words & COMPARING,
            -len(marks & words),
            test.stat().st_size,
        )

    found = sorted((top if top.is_dir() else TOP / "tests").rglob("test_*.py"), key=near)
    return [".".join(test.relative_to(TOP / "tests").with_suffix("").parts) for test in found]


def noticed(fault: Fault, copy: Path, limit: float) -> str:
    """Return which test notices a fault, "" if none does within a limit, s. A module that fails without it
    doesn't count.
    """
    end = time.monotonic() + limit
    for name in tests_of(fault.file):
        if time.monotonic() > end:
            break
        failed = failed_with(fault, name, copy)
        if failed and is_sound(name, copy):
            return f"{name}.{failed}"
    return ""


def failed_with(fault: Fault, name: str, copy: Path) -> str:
    """Return the first test of a module that fails with a fault, "" if all pass."""
    whole = (TOP / fault.file).read_text(encoding="utf-8")
    failed = failed_in_fork(name, (fault.file, fault.line, whole, fault.text), PATIENCE)
    if failed != CANNOT:
        return failed
    target = copy / fault.file
    target.write_text(fault.text, encoding="utf-8")
    try:
        return failed_test(name, copy)
    finally:
        target.write_text(whole, encoding="utf-8")


def failed_test(name: str, copy: Path) -> str:
    """Return the first test of a module that fails in a copy of the project, "" if all pass."""
    environment = {
        **os.environ,
        "PYTHONPATH": str(copy / "src"),
        "PALE_EMBER_STATE": str(copy / "state"),
        "XDG_CONFIG_HOME": str(copy / "config"),
    }
    command = [sys.executable, "-m", "unittest", "-f", f"tests.{name}"]
    try:
        done = subprocess.run(
            command,
            cwd=copy,
            env=environment,
            capture_output=True,
            text=True,
            errors="replace",
            timeout=PATIENCE,
            check=False,
        )
    except subprocess.TimeoutExpired:
        return "hangs"
    failed = re.search(r"^(?:FAIL|ERROR): (\w+)", done.stderr, re.M)
    return (failed[1] if failed else "nothing ran") if done.returncode else ""


@functools.cache
def is_sound(name: str, copy: Path) -> bool:
    """Return whether a module's tests pass in a copy of the project that is as it should be."""
    return not failed_test(name, copy)


def given() -> argparse.Namespace:
    """Return what the command line asks for."""
    parser = argparse.ArgumentParser(prog="python -m tests.faults")
    parser.add_argument("seed", type=int)
    parser.add_argument("count", type=int)
    parser.add_argument("--from", type=int, default=0, dest="first")
    parser.add_argument("--limit", type=float, default=math.inf)
    parser.add_argument("rooms", nargs="*")
    return parser.parse_intermixed_args()


def files_of(rooms: list[str]) -> list[Path]:
    """Return the files of rooms, or all, that get faults."""
    folders = [SOURCE / room.replace(".", "/") for room in rooms] or [SOURCE]
    return sorted(
        path.relative_to(TOP)
        for folder in folders
        for path in (TOP / folder).rglob("*.py")
        if "plain" not in path.parts and path.name != "__init__.py" and "cli" not in path.parts
    )


def faults_in(files: list[Path], seed: int) -> Iterator[Fault]:
    """Yield faults by chance without end; a line of a long file is as likely as one of a short one."""
    dice = random.Random(seed)
    sizes = [len((TOP / file).read_text(encoding="utf-8")) for file in files]
    while True:
        fault = fault_in(dice.choices(files, sizes)[0], dice)
        if fault is not None:
            yield fault


def main() -> int:
    asked = given()
    copy = Path(tempfile.mkdtemp(prefix="pale-ember-faults-"))
    ignored = shutil.ignore_patterns(".git", ".venv", "__pycache__", "node_modules")
    shutil.copytree(TOP, copy, ignore=ignored, dirs_exist_ok=True)
    seen = 0
    # What tests leave behind stays out of the artist's own folders.
    os.environ.update({"PALE_EMBER_STATE": str(copy / "state"), "XDG_CONFIG_HOME": str(copy / "config")})
    load_all(modules(TOP / "tests"))
    try:
        faults = faults_in(files_of(asked.rooms), asked.seed)
        for fault in itertools.islice(faults, asked.first, asked.first + asked.count):
            start = time.monotonic()
            by = noticed(fault, copy, asked.limit)
            seen += bool(by)
            what = f"{fault.old[:90]}  ->  {fault.new[:90]}".replace("\n", " ")
            took = time.monotonic() - start
            print(
                f"{'noticed' if by else 'MISSED '} {took:4.0f} s {fault.file}:{fault.line} {by}\n    {what}",
                flush=True,
            )
    finally:
        shutil.rmtree(copy, ignore_errors=True)
    print(f"{seen} of {asked.count} noticed, {100 * seen / max(asked.count, 1):.0f} %")
    return 0


if __name__ == "__main__":
    sys.exit(main())
