"""The demo: the suites and data of the Larkmoor Field Station, and a story told on them."""
