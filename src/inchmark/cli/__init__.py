"""`inchmark read | frames | reference | examples | simulate | bridge | bundle`: core, formats and devices without the web."""

from __future__ import annotations

import argparse
import json
import os
import sys
from pathlib import Path

from inchmark.cli.bridge import add_parser as add_bridge
from inchmark.cli.bundle import add_parser as add_bundle
from inchmark.cli.examples import add_parser as add_examples
from inchmark.cli.frames import add_parser as add_frames
from inchmark.cli.reference import TableResult, check_tables
from inchmark.cli.simulate import add_parser as add_simulate
from inchmark.cli.study import Known, read_files
from inchmark.core.reading.answer import answer_of
from inchmark.core.reading.expected import served_words
from inchmark.core.reading.result import RigReading
from inchmark.core.reading.rules import BEST, WORSE, RangeRules
from inchmark.core.reception.visit import Counting
from inchmark.core.wording import distance, level
from inchmark.devices.serial_bridge import BridgeError
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.reading_json import reading_json
from inchmark.formats.study_file import StudyFile, read_study_file


def main(arguments: list[str] | None = None) -> int:
    """Run one of the commands; return the exit status."""
    parsed = _parser().parse_args(arguments)
    try:
        return int(parsed.run(parsed))
    except (UnreadableFileError, BridgeError, ValueError) as wrong:
        print(f"inchmark {parsed.command}: {wrong}", file=sys.stderr)
        return 2
    except BrokenPipeError:  # whoever read our output has seen enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except OSError as wrong:
        print(
            f"inchmark {parsed.command}: {wrong.filename or ''}: {wrong.strerror}", file=sys.stderr
        )
        return 2


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="inchmark", description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True)
    read = commands.add_parser(
        "read", help="read a frame log and its stops, print ranges and differences"
    )
    read.add_argument("--frames", type=Path, required=True, help="frame log, CSV or JSON Lines")
    read.add_argument("--stops", type=Path, required=True, help="stops, CSV")
    read.add_argument(
        "--study",
        type=Path,
        help="what is known beside them, JSON: rigs, receivers, noise, heights",
    )
    read.add_argument(
        "--direction",
        default=WORSE,
        help="what must arrive: worse (of both), exchange, to_fixed or to_carried (worse)",
    )
    read.add_argument(
        "--receiver", default=BEST, help="which receiver must hear: best, any, or a name (best)"
    )
    read.add_argument("--json", action="store_true", help="print everything as JSON")
    read.add_argument("--sensitivity", action="append", default=[], metavar="RIG=DBM")
    read.add_argument(
        "--module",
        action="append",
        default=[],
        metavar="RIG=TYPE",
        help="rigs of one type compare by signal",
    )
    read.add_argument(
        "--needed", type=float, metavar="M", help="distance the deployment must reach"
    )
    read.add_argument(
        "--loss", type=float, default=0.1, help="share of frames that may be lost (0.1)"
    )
    read.add_argument(
        "--places",
        action="append",
        default=[],
        metavar="SHARE|FILE",
        help="share of places that must hold (0.9); or a GPX or GeoJSON file of places that need a node",
    )
    read.add_argument(
        "--walls", type=Path, metavar="FILE", help="GeoJSON of walls that paths go through"
    )
    read.add_argument(
        "--in-hand", type=float, default=10.0, metavar="DB", help="dB of the in-hand rule (10)"
    )
    read.add_argument(
        "--reference-noise", type=float, metavar="DBM", help="noise at which sensitivities hold"
    )
    read.add_argument("--counter-bits", type=int, choices=(8, 16, 32))
    read.add_argument("--interval", type=float, metavar="S", help="beacon interval, if known")
    read.add_argument("--frames-per-visit", type=int, metavar="N", help="frames sent, if known")
    read.set_defaults(run=_read)
    add_frames(commands)
    reference = commands.add_parser(
        "reference", help="check the core against tables of reference values"
    )
    reference.add_argument("folder", type=Path)
    reference.set_defaults(run=_reference)
    add_examples(commands)
    add_simulate(commands)
    add_bridge(commands)
    add_bundle(commands)
    return parser


def _pairs(items: list[str]) -> dict[str, str]:
    for item in items:
        if "=" not in item:
            raise ValueError(f"{item!r} must be RIG=VALUE")
    return dict(item.split("=", 1) for item in items)


def _places(given: list[str]) -> tuple[float, Path | None]:
    """Return the share of places and the file of places, whichever was said."""
    share, file = 0.9, None
    for one in given:
        try:
            share = float(one)
        except ValueError:
            if file is not None:
                raise ValueError(f"--places names two files, {file} and {one}; join them") from None
            file = Path(one)
    return share, file


def _read(parsed: argparse.Namespace) -> int:
    study = read_study_file(parsed.study.read_bytes()) if parsed.study else StudyFile()
    share, places = _places(parsed.places)
    known = Known(
        study=study,
        places=places,
        walls=parsed.walls,
        sensitivities={rig: float(dbm) for rig, dbm in _pairs(parsed.sensitivity).items()},
        module_types=_pairs(parsed.module),
        rules=RangeRules(
            loss=parsed.loss,
            places=share,
            in_hand_db=parsed.in_hand,
            direction=parsed.direction,
            receiver=parsed.receiver,
        ),
        counting=Counting(
            counter_bits=parsed.counter_bits,
            interval_s=parsed.interval,
            planned=parsed.frames_per_visit,
        ),
        reference_noise_dbm=parsed.reference_noise,
        needed_m=parsed.needed,
    )
    reading = read_files(parsed.frames, parsed.stops, known)
    if parsed.json:
        print(json.dumps(reading_json(reading), indent=1, allow_nan=False))
        return 0
    answer = answer_of(reading)
    print(" ".join(part for part in (answer.sentence, answer.limits) if part))
    print("\n".join(part for part in (answer.needed, answer.rule) if part))
    if reading.guidance:
        print(reading.guidance.sentence)
    for one in reading.rigs:
        print(f"  {one.rig}: {_range_line(one)}")
    for served in reading.served:
        print(f"  {served_words(served)}")
    for note in reading.notes:
        print(f"  - {note.title}: {note.text}")
    return 0


def _range_line(rig: RigReading) -> str:
    reach, last = rig.loss_range_m, rig.last_heard_m
    parts = [
        f"{rig.heard} of {rig.sent} heard",
        f"last heard {distance(last)}" if last else "never heard",
    ]
    if reach:
        limits = f"{distance(reach.low)} to {distance(reach.high)}"
        parts.append(f"range {distance(reach.estimate)} ({limits})")
    if rig.threshold_dbm:
        parts.append(f"half of the frames lost at {level(rig.threshold_dbm.estimate)}")
    return ", ".join(parts)


def _reference(parsed: argparse.Namespace) -> int:
    if not parsed.folder.is_dir():
        raise ValueError(f"there is no folder {parsed.folder}")
    results, unknown = check_tables(parsed.folder)
    if not results:
        raise ValueError(f"{parsed.folder} holds no table whose name is known")
    print(f"{'table':<24}{'rows':>6}{'worst error / tolerance':>26}  result")
    for result in results:
        _print_table(result)
    if unknown:
        print(f"not known yet: {', '.join(unknown)}")
    return 1 if any(result.failed for result in results) else 0


def _print_table(result: TableResult) -> None:
    word = f"{len(result.failed)} FAILED" if result.failed else "pass"
    print(f"{result.name:<24}{result.rows:>6}{result.worst:>26.3g}  {word}")
    for line in result.failed:
        print(f"    {line}")
    if result.skipped:
        print(f"    {len(result.skipped)} rows not known yet: {', '.join(result.skipped)}")
