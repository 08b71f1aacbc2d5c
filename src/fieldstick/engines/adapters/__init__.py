"""Bindings of engines that Python has, each made to answer alike; loaded in a process of their own."""
