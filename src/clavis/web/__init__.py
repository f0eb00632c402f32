"""Pages: one module per station, its template beside it by the same name."""
