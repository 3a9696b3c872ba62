"""`python -m drelo.device --port N --state FILE`: the stand-in printer on loopback."""

from __future__ import annotations

import argparse
import ctypes
import signal
from pathlib import Path

import waitress

from drelo.device.app import create_device

PR_SET_PDEATHSIG = 1
LARGEST_JOB = 64 * 2**20


def main() -> None:
    parser = argparse.ArgumentParser(description="A stand-in for a printer, on 127.0.0.1.")
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--state", type=Path, required=True)
    args = parser.parse_args()
    # Whoever started it may be killed: then it ends as well.
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)
    waitress.serve(
        create_device(args.state), host="127.0.0.1", port=args.port, threads=4, max_request_body_size=LARGEST_JOB
    )


if __name__ == "__main__":
    main()
