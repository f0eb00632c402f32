"""What outlives a job: bikes, the parts on them, how they wear, what is due."""
