"""How parts go together: adapters, bolts, clearances, special plates, drawing."""
