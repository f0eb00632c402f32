"""What was entered about one bike."""
