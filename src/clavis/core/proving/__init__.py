"""Station 7: what is asked of the road, how it is tested, and what the runs and readings say."""
