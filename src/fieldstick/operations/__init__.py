"""What can be done with text that fits: rewrite, split, route, look up, judge a form; one file an operation."""
