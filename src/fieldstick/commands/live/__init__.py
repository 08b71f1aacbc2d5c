"""The live view of a draft: a process that reads, and a screen that asks it."""
