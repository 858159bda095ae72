"""The command line of the core: `python -m orchesis.cli transcribe SONG... --out DIR`.

Errors are one line on standard error and the exit code 2; what could not be finished leaves
nothing behind.
"""

from __future__ import annotations

import argparse
import shutil
import sys
import tempfile
from pathlib import Path

from orchesis.chart.files import COMMAND_LINE_FILES, write_file
from orchesis.errors import OrchesisError
from orchesis.music.titles import title_of
from orchesis.music.values import Transcription
from orchesis.pipeline import transcribe

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
    command = commands.add_parser("transcribe", help="write the drum part of recordings as files")
    command.add_argument("songs", nargs="+", type=Path, metavar="SONG", help="an audio file")
    command.add_argument("--out", required=True, type=Path, metavar="DIR", help="where to write")
    return main_parser


def main(arguments: list[str] | None = None) -> int:
    """Run a command; returns its exit code."""
    options = parser().parse_args(arguments)
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


if __name__ == "__main__":
    sys.exit(main())
