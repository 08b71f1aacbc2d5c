"""Two runs held against each other: a run and its baseline, two drafts."""
