"""The language server for suite files, a face like the command line (LSP 3.17)."""
