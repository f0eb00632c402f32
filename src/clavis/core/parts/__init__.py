"""What can be bought and what is standard."""
