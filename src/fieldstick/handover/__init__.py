"""The pattern for the program or form where it will run: written for its engine, quoted for its language."""
