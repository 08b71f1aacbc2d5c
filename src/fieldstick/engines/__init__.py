"""The programs that interpret expressions, behind one protocol."""
