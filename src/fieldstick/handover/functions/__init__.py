"""A pattern as a function of a programming language, with its samples as that language's unit test."""
