"""Runs the command line: `python -m fieldstick`."""

from fieldstick.start import main

if __name__ == "__main__":
    main()
