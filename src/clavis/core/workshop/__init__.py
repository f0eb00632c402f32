"""The work: orders, bedding-in, trials, calibration."""
