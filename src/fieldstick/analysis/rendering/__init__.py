"""What an expression means, engine by engine, and how that is written for another: `meaning`, then `writing`."""
