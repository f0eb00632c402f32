"""Rules and computation. Knows nothing of pages, requests, tables, files or the clock."""
