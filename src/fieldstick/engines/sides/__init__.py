"""Programs that speak for an engine, in its own language: what `companion` starts."""
