"""What was found: findings, the walk, complaints and their causes."""
