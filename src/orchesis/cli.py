"""The command line of the core: `orchesis transcribe`, `chart`, `plan`, `compare` and `beats`.

Errors are one line on standard error and the exit code 2; what could not be finished leaves
nothing behind. With --json the answer is one JSON value on standard output.
"""

from __future__ import annotations

import argparse
import json
import shutil
import sys
import tempfile
from pathlib import Path
from typing import Any

from orchesis import public
from orchesis.chart.files import COMMAND_LINE_FILES, WRITERS, write_file
from orchesis.chart.options import Reading
from orchesis.errors import OrchesisError
from orchesis.music.json import dumps
from orchesis.music.titles import title_of
from orchesis.music.values import Transcription
from orchesis.pipeline import transcribe
from orchesis.practice.plans import Method

BAD_INPUT = 2
BAR_WIDTH = 24
_STAGE_WORDS = {
    "decode": "reading",
    "listen": "listening",
    "beats": "finding the beat",
    "bars": "finding the bars",
    "write": "writing",
    "files": "engraving",
}


class ProgressBar:
    """One line on standard error, redrawn in place on a terminal, silent elsewhere."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._live = sys.stderr.isatty()

    def __call__(self, stage: str, share: float) -> None:
        """Show how far a stage is."""
        if self._live:
            full = round(BAR_WIDTH * share)
            bar = "#" * full + "." * (BAR_WIDTH - full)
            words = _STAGE_WORDS.get(stage, stage)
            print(f"\r{self._name} [{bar}] {share:4.0%} {words:<18}", end="", file=sys.stderr)

    def close(self) -> None:
        """End the line."""
        if self._live:
            print(file=sys.stderr)


def transcribe_file(path: Path, out: Path) -> Path:
    """Transcribe one song into `out`/<its name without ending>/ and return that folder.

    The files are made in a scratch folder and moved in when all are complete.
    """
    target = out / path.stem
    bar = ProgressBar(path.name)
    try:
        result = transcribe(path, title=title_of(path), report=lambda s, p: bar(s, 0.85 * p))
        out.mkdir(parents=True, exist_ok=True)
        scratch = Path(tempfile.mkdtemp(prefix=".orchesis-", dir=out))
        try:
            for index, name in enumerate(COMMAND_LINE_FILES):
                bar("files", 0.85 + 0.15 * index / len(COMMAND_LINE_FILES))
                (scratch / name).write_bytes(write_file(result.transcription, name))
            target.mkdir(exist_ok=True)
            for name in COMMAND_LINE_FILES:
                (scratch / name).replace(target / name)
        finally:
            shutil.rmtree(scratch, ignore_errors=True)
        bar("done", 1.0)
    finally:
        bar.close()
    print(f"{path.name}: {_in_a_line(result.transcription)} -> {target}")
    return target


def _in_a_line(song: Transcription) -> str:
    if not song.bars:
        return song.findings[0]
    return f"{song.tempo_bpm:.1f} bpm, {song.meter}, {len(song.bars)} bars, {len(song.hits)} hits"


def parser() -> argparse.ArgumentParser:
    """The arguments."""
    main_parser = argparse.ArgumentParser(prog="orchesis")
    commands = main_parser.add_subparsers(dest="command", required=True)
    song_help = "a transcription.json, or a drum part as MIDI or MusicXML"

    command = commands.add_parser("transcribe", help="write the drum part of recordings as files")
    command.add_argument("songs", nargs="+", type=Path, metavar="SONG", help="an audio file")
    where = command.add_mutually_exclusive_group(required=True)
    where.add_argument("--out", type=Path, metavar="DIR", help="where to write")
    where.add_argument(
        "--json", action="store_true", help="print the transcription of one song instead"
    )
    command.set_defaults(run=_transcribe)

    command = commands.add_parser("chart", help="write one file of a song's chart")
    command.add_argument("song", type=Path, metavar="IN", help=song_help)
    command.add_argument("--file", default="chart.pdf", choices=WRITERS, metavar="NAME")
    command.add_argument("--reading", default="full", choices=list(Reading))
    command.add_argument("--out", required=True, type=Path, metavar="FILE", help="what to write")
    command.set_defaults(run=_chart)

    command = commands.add_parser("plan", help="the steps to a groove or a fill")
    command.add_argument("song", type=Path, metavar="IN", help=song_help)
    command.add_argument("target", help="a section's label, or the bar in which a fill ends")
    command.add_argument("--method", default="backbeat_first", choices=list(Method))
    command.add_argument("--json", action="store_true")
    command.set_defaults(run=_plan)

    command = commands.add_parser("compare", help="lay another part beside a song")
    command.add_argument("song", type=Path, metavar="A", help=song_help)
    command.add_argument("part", type=Path, metavar="B", help=song_help)
    command.add_argument("--json", action="store_true")
    command.set_defaults(run=_compare)

    command = commands.add_parser("beats", help="beats and downbeats of a recording, in seconds")
    command.add_argument("song", type=Path, metavar="SONG", help="an audio file")
    command.add_argument("--json", action="store_true")
    command.set_defaults(run=_beats)
    return main_parser


def main(arguments: list[str] | None = None) -> int:
    """Run a command; returns its exit code."""
    options = parser().parse_args(arguments)
    try:
        return int(options.run(options))
    except OrchesisError as error:
        print(f"orchesis: {error}", file=sys.stderr)
    except OSError as error:
        print(f"orchesis: {error.filename}: {error.strerror}", file=sys.stderr)
    return BAD_INPUT


def _transcribe(options: argparse.Namespace) -> int:
    if options.json:
        if len(options.songs) > 1:
            print("orchesis: --json prints one song: name one, or use --out", file=sys.stderr)
            return BAD_INPUT
        print(dumps(public.transcribe(options.songs[0])))
        return 0
    code = 0
    stems: dict[str, Path] = {}
    for path in options.songs:
        other = stems.setdefault(path.stem, path)
        if other is not path:
            print(
                f"orchesis: {path}: would be written into the same folder as {other}; "
                "rename one of them or transcribe them apart",
                file=sys.stderr,
            )
            return BAD_INPUT
    for path in options.songs:
        try:
            transcribe_file(path, options.out)
        except OrchesisError as error:
            print(f"orchesis: {path}: {error}", file=sys.stderr)
            code = BAD_INPUT
        except OSError as error:
            print(f"orchesis: {path}: cannot be written: {error}", file=sys.stderr)
            code = BAD_INPUT
    return code


def _chart(options: argparse.Namespace) -> int:
    data = public.render_chart(public.load(options.song), options.file, reading=options.reading)
    public.write_whole(options.out, data)
    return 0


def _plan(options: argparse.Namespace) -> int:
    target = int(options.target) if options.target.isdigit() else options.target
    steps = public.practice_plan(public.load(options.song), target, method=options.method)
    values: list[dict[str, Any]] = [
        {
            "title": step.title,
            "count": step.count,
            "sticking": step.sticking,
            "trap": step.trap,
            "difficulty": round(step.difficulty, 1),
            "tempos": [round(rung, 3) for rung in step.ladder.rungs],
        }
        for step in steps
    ]
    if options.json:
        print(json.dumps(values, ensure_ascii=False))
        return 0
    for number, value in enumerate(values, 1):
        percents = ", ".join(f"{rung:.0%}" for rung in value["tempos"])
        print(f"{number}. {value['title']} (at {percents})\n   {value['count']}")
        if value["trap"]:
            print(f"   {value['trap']}")
    return 0


def _compare(options: argparse.Namespace) -> int:
    found = public.compare(public.load(options.song), public.load(options.part))
    if options.json:
        print(
            json.dumps(
                {
                    "agreement": found.agreement,
                    "shift": found.shift,
                    "same": found.same,
                    "differing": found.differing,
                    "beyond": found.beyond,
                }
            )
        )
        return 0
    print(f"{found.agreement:.0%} of the strokes agree; B begins at bar {found.shift + 1} of A.")
    if found.differing:
        print(f"Bars that differ: {', '.join(map(str, found.differing))}.")
    return 0


def _beats(options: argparse.Namespace) -> int:
    beats = public.track_beats(options.song)
    if beats is None:
        print(f"orchesis: {options.song}: no steady beat was found", file=sys.stderr)
        return BAD_INPUT
    if options.json:
        values = {
            "tempo_bpm": beats.tempo_bpm,
            "meter": str(beats.meter),
            "beats": beats.times,
            "downbeats": beats.downbeats,
        }
        print(json.dumps(values))
        return 0
    ones = set(beats.downbeats)
    for time in beats.times:
        print(f"{time:.3f}{'  1' if time in ones else ''}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
