"""Mutation checks: break the core on purpose, one place at a time, and see that a test notices.

    python -m tests.tools.mutants                 # every mutant of every file below
    python -m tests.tools.mutants sequence bursts # of some files
    python -m tests.tools.mutants --list          # what would be broken, without running

A mutant that survives is either a hole in the tests or a change that makes no difference (say so
in EQUIVALENT, with the reason). Exit code 1 when one survives.
"""

from __future__ import annotations

import argparse
import ast
import copy
import os
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
CORE = Path("src/inchmark/core")
TESTS = {  # file: the tests that hold it
    "reception/sequence.py": ("test_sequence.py", "test_bounds.py"),
    "reception/bursts.py": ("test_proportions_and_bursts.py", "test_bounds.py"),
    "airtime/duty_cycle.py": ("test_laws.py", "test_bounds.py"),
    "planning/timetable.py": ("test_planning.py", "test_bounds.py"),
    "limits.py": ("test_feeds_and_limits.py", "test_bounds.py"),
    "margin_map.py": ("test_paths.py", "test_bounds.py"),
}
AT_ONCE, TIMEOUT_S = 2, 120

SWAPS: dict[type, type] = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
}
NAMES = {"max": "min", "min": "max", "fmax": "maximum", "floor": "ceil"}

# places where the change makes no difference to any result, and why
_LATE = "self.wraps and self.top < size and (0 < self.highest - before <= REORDER_WINDOW)"
EQUIVALENT: dict[str, str] = {
    "reception/sequence.py: not self.interval_s or time_s is None or self.highest_time is None -> "
    "not self.interval_s or self.highest_time is None": "without times no time was ever highest",
    "reception/sequence.py: steps <= MAX_GAP -> steps < MAX_GAP": "a shortcut; the long way agrees",
    f"reception/sequence.py: {_LATE} -> {_LATE.removeprefix('self.wraps and ').replace('(', '').replace(')', '')}": "before a wrap a place lies more than a window below",
    "reception/sequence.py: self.top < size -> self.top <= size": "a counter that reached size never wrapped at it, so no wrap was counted",
    "reception/sequence.py: 0 < self.highest - before <= REORDER_WINDOW -> "
    "0 <= self.highest - before <= REORDER_WINDOW": "no value below size reaches the highest place",
    "planning/timetable.py: entries and entries[-1].visit.pass_number != visit.pass_number -> "
    "entries[-1].visit.pass_number != visit.pass_number": "the first visit has another stop than None",
}


@dataclass(frozen=True)
class Mutant:
    """One change of one file."""

    file: str
    line: int
    words: str
    source: str

    @property
    def name(self) -> str:
        return f"{self.file}:{self.line} {self.words}"


def mutants_of(file: str) -> Iterator[Mutant]:
    """Yield every mutant of a file of the core."""
    tree = _marked(ast.parse((ROOT / CORE / file).read_text()))
    places = [node for node in ast.walk(tree) if list(_changes(node))]
    for at, node in enumerate(places):
        for which, _ in enumerate(list(_changes(node))):
            changed = copy.deepcopy(tree)
            place = [one for one in ast.walk(changed) if list(_changes(one))][at]
            before = ast.unparse(place)
            list(_changes(place))[which]()
            words = f"{before} -> {ast.unparse(place)}"
            yield Mutant(file, getattr(node, "lineno", 0), words, ast.unparse(changed))


def _marked(tree: ast.Module) -> ast.Module:
    """Mark the numbers inside functions: those at the top are choices, told with their reasons."""
    for function in ast.walk(tree):
        if isinstance(function, ast.FunctionDef):
            for node in (one for line in function.body for one in ast.walk(line)):
                if isinstance(node, ast.Constant):
                    node.of_rule = True
    return tree


def _changes(node: ast.AST) -> Iterator[Callable[[], object]]:
    """Yield the ways to break one node, each a function that does it in place."""
    yield from BREAKERS.get(type(node), lambda one: ())(node)


def _operator(node: ast.BinOp) -> Iterator[Callable[[], object]]:
    if type(node.op) in SWAPS:
        yield lambda: setattr(node, "op", SWAPS[type(node.op)]())


def _comparison(node: ast.Compare) -> Iterator[Callable[[], object]]:
    if type(node.ops[0]) in SWAPS:
        yield lambda: node.ops.__setitem__(0, SWAPS[type(node.ops[0])]())


def _conditions(node: ast.BoolOp) -> Iterator[Callable[[], object]]:
    for i in range(len(node.values)):
        yield lambda i=i: node.values.pop(i)  # a condition that nobody asks any more


def _name(node: ast.Name | ast.Attribute) -> Iterator[Callable[[], object]]:
    field = "id" if isinstance(node, ast.Name) else "attr"
    if getattr(node, field) in NAMES:
        yield lambda: setattr(node, field, NAMES[getattr(node, field)])


def _constant(node: ast.Constant) -> Iterator[Callable[[], object]]:
    if type(node.value) in (int, float) and node.value > 1 and hasattr(node, "of_rule"):
        yield lambda: setattr(node, "value", node.value + 1)


BREAKERS: dict[type, Callable] = {
    ast.BinOp: _operator,
    ast.Compare: _comparison,
    ast.BoolOp: _conditions,
    ast.Name: _name,
    ast.Attribute: _name,
    ast.Constant: _constant,
}


def survives(mutant: Mutant) -> bool:
    """Tell whether the tests pass although the file is broken."""
    with tempfile.TemporaryDirectory() as folder:
        shutil.copytree(ROOT / "src", folder, dirs_exist_ok=True, ignore=_not_core)
        (Path(folder) / "inchmark" / "core" / mutant.file).write_text(mutant.source)
        tests = [str(ROOT / "tests/core" / one) for one in TESTS[mutant.file]]
        command = [sys.executable, "-m", "pytest", "-q", "-x", "-c", "tests/core/pytest.ini"]
        options = ["--rootdir", ".", "-p", "no:cacheprovider", "-p", "no:xdist"]
        found = {**os.environ, "PYTHONPATH": folder, "PYTHONDONTWRITEBYTECODE": "1"}
        try:
            done = subprocess.run(
                [*command, *options, *tests],
                cwd=ROOT,
                env=found,
                capture_output=True,
                timeout=TIMEOUT_S,
            )
        except subprocess.TimeoutExpired:
            return False
    return done.returncode == 0


def _not_core(folder: str, names: list[str]) -> list[str]:
    return [one for one in names if Path(folder).name == "inchmark" and one not in _KEPT]


_KEPT = {"__init__.py", "core"}


def main() -> int:
    """Break, test, tell."""
    parser = argparse.ArgumentParser(prog="python -m tests.tools.mutants", description=__doc__)
    parser.add_argument("words", nargs="*", help="only files whose name has one of these in it")
    parser.add_argument("--list", action="store_true", help="say what would be broken")
    asked = parser.parse_args()
    files = [f for f in TESTS if not asked.words or any(word in f for word in asked.words)]
    mutants = [one for file in files for one in mutants_of(file)]
    if asked.list:
        print(*(one.name for one in mutants), sep="\n")  # noqa: T201
        return 0
    with ThreadPoolExecutor(AT_ONCE) as pool:
        alive = [
            one.name
            for one, lives in zip(mutants, pool.map(survives, mutants), strict=True)
            if lives
        ]
    open_ones = [name for name in alive if re.sub(r":\d+ ", ": ", name, count=1) not in EQUIVALENT]
    print(f"{len(mutants)} mutants, {len(mutants) - len(alive)} killed, {len(alive)} survived")  # noqa: T201
    for name in open_ones:
        print(f"SURVIVED {name}")  # noqa: T201
    return 1 if open_ones else 0


if __name__ == "__main__":
    sys.exit(main())
