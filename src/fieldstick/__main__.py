"""Runs the command line: `python -m fieldstick`."""

from fieldstick.commands.main import main

if __name__ == "__main__":
    main()
