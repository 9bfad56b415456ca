"""Run a command on a terminal of its own, and type a line each time it asks: for the pictures.

Run: python tools/answering.py PROMPT "LINE,LINE" COMMAND...
"""

import os
import pty
import sys
import time


def main(prompt: str, lines: str, *command: str) -> int:
    """Copy what the command prints; return its exit status. What ends the lines is the end of the input (Ctrl+D)."""
    answers = iter([*(f"{line}\n" for line in lines.split(",")), "\x04"])
    printed = b""

    def read(master: int) -> bytes:
        nonlocal printed
        data = os.read(master, 4096)
        printed += data
        if printed.endswith(prompt.encode()):
            printed = b""
            for letter in next(answers, "\x04"):
                os.write(master, letter.encode())
                time.sleep(0.8 if letter == "\t" else 0.12)  # as a person would
        return data

    return os.waitstatus_to_exitcode(pty.spawn(command, read))


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
