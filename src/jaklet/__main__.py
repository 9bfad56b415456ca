"""The way in, for `jaklet` and for `python -m jaklet`."""

import gc


def run() -> None:
    """Load and run the command line.

    What is made at start-up stays, so that collecting garbage among it is lost time: a tenth of it. The one command
    that runs for long, `listen`, begins to collect again once it listens.
    """
    gc.disable()
    from jaklet.cli.app import main

    main()


if __name__ == "__main__":
    run()
