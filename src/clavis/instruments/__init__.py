"""What stands in for outside devices, behind the interface that a real one would implement."""
