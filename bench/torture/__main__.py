"""``make torture``: prints what was done and what was lost."""

from __future__ import annotations

import argparse
import sys
import tempfile
from dataclasses import fields
from pathlib import Path

from bench.torture import Amounts, torture


def main() -> int:
    parser = argparse.ArgumentParser()
    for amount in fields(Amounts):
        parser.add_argument(f"--{amount.name}", type=int, default=amount.default)
    amounts = Amounts(**vars(parser.parse_args()))
    with tempfile.TemporaryDirectory(prefix="neatpatch-torture-") as folder:
        print("| torture | rounds | lost or wrong |\n|---|---|---|", flush=True)
        rows = []
        for name, much, wrong in torture(Path(folder), amounts):
            print(f"| {name} | {much} | {len(wrong)} |", flush=True)
            rows.append((name, wrong))
    for name, wrong in rows:
        for text in wrong:
            print(f"{name}: {text}")
    return 1 if any(wrong for _, wrong in rows) else 0


if __name__ == "__main__":
    sys.exit(main())
