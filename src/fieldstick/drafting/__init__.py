"""What helps while an expression is written: reading it, tracing it, finding out why a text does not fit."""
