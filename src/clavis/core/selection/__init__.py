"""What to choose: candidates, schools, comparisons."""
