"""What people slip on when they write an expression, a small rule each, and what would undo it.

Nothing here decides: a proposal counts only once the engine has matched it.
"""
