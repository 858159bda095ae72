"""`./orchesis bench faults [--json]`: all of it, as a table; 1 where a bound was passed."""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable
from dataclasses import asdict

from benchmarks.faults import (
    apart,
    bodies,
    crowd,
    disk,
    frozen,
    fuzz,
    hostile,
    hosts,
    kills,
    senders,
    uploads,
    week,
)
from benchmarks.faults.stack import Check, Stack, running


def main() -> int:
    """Measure and print."""
    began = time.monotonic()
    checks: list[Check] = []
    only = [argument for argument in sys.argv[1:] if not argument.startswith("-")]

    def tried(name: str, work: Callable[[], list[Check]]) -> None:
        if only and name not in only:
            return
        print(f"{name} ...", file=sys.stderr, flush=True)
        try:
            checks.extend(work())
        except Exception as error:
            checks.append(Check(f"{name}: the bench itself", repr(error)[:200], "runs", False))

    with running() as stack:
        together: dict[str, Callable[[Stack], list[Check]]] = {
            "bodies": bodies.measure,
            "senders": senders.measure,
            "fuzz": fuzz.measure,
            "uploads": uploads.measure,
            "crowd": crowd.measure,
            "frozen": frozen.measure,
            "hostile": hostile.measure,
            "week": week.measure,
            "kills": kills.measure,
        }
        for name, measure in together.items():
            tried(name, lambda measure=measure: measure(stack))  # type: ignore[misc]
    tried("disk", disk.measure)
    tried("hosts", hosts.measure)
    tried("two", kills.measure_two)
    tried("apart", apart.measure)
    if "--json" in sys.argv:
        print(json.dumps([asdict(check) for check in checks], indent=1))
    else:
        print("| what | measured | bound | |\n|---|---|---|---|")
        for check in checks:
            word = "held" if check.holds else "PASSED BEYOND"
            print(f"| {check.name} | {check.value} | {check.bound} | {word} |")
        print(f"\n{time.monotonic() - began:.0f} s in all.")
    return 0 if all(check.holds for check in checks) else 1


if __name__ == "__main__":
    sys.exit(main())
