"""The supplier: what it offers, asked over HTTP with a time-out; and a stand-in for it, for demo and tests."""
