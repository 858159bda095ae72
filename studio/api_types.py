"""The front end's types and words, generated: `python -m studio.api_types [--check]`.

Writes studio/schema.yaml, frontend/src/api/schema.d.ts (the API's types) and vocabulary.ts (what
the core names); with --check only says whether the committed ones are current.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

from studio.vocabulary import vocabulary_text

ROOT = Path(__file__).resolve().parent.parent
SCHEMA = ROOT / "studio" / "schema.yaml"
TYPES = ROOT / "frontend" / "src" / "api" / "schema.d.ts"
WORDS = ROOT / "frontend" / "src" / "api" / "vocabulary.ts"


def generate(schema: Path, types: Path) -> None:
    """Write both files."""
    manage = [sys.executable, str(ROOT / "studio" / "manage.py"), "spectacular"]
    manage += ["--validate", "--fail-on-warn", "--file", str(schema)]
    subprocess.run(manage, check=True, cwd=ROOT)
    tool = ROOT / "frontend" / "node_modules" / ".bin" / "openapi-typescript"
    subprocess.run(
        [str(tool), str(schema), "-o", str(types)], check=True, stdout=subprocess.DEVNULL
    )


def main() -> int:
    """Generate, or compare."""
    if "--check" not in sys.argv:
        generate(SCHEMA, TYPES)
        WORDS.write_text(vocabulary_text())
        return 0
    with tempfile.TemporaryDirectory() as name:
        fresh_schema, fresh_types = Path(name) / "schema.yaml", Path(name) / "schema.d.ts"
        generate(fresh_schema, fresh_types)
        stale = [
            path.name
            for path, fresh in ((SCHEMA, fresh_schema), (TYPES, fresh_types))
            if not path.exists() or path.read_text() != fresh.read_text()
        ]
    if not WORDS.exists() or WORDS.read_text() != vocabulary_text():
        stale.append(WORDS.name)
    if stale:
        print(f"stale: {', '.join(stale)}; run python -m studio.api_types")
    return 1 if stale else 0


if __name__ == "__main__":
    sys.exit(main())
