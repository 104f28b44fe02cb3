"""`python -m hookset.standin MAP.zip [TICKS]`: the log as JSON, one line each. Exit code 1 when it has an error."""

from __future__ import annotations

import sys
from pathlib import Path

from hookset.standin.game import play
from hookset.standin.log import Log


def main(arguments: list[str]) -> int:
    sys.stdout.reconfigure(encoding="utf-8")  # type: ignore[union-attr]
    log = Log(tell=lambda line: print(line.as_json(), flush=True))
    play(Path(arguments[0]), int(arguments[1]) if len(arguments) > 1 else 60, log)
    return 1 if log.errors else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
