"""Compiled walkers over blocks of text, where they could be built; all they do is done without them too, slower."""
