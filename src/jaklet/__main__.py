"""Run the command line under `python -m jaklet`."""

from jaklet.cli.app import main

main()
