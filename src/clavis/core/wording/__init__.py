"""Words for every reader: labels, sentences, the summary of a job."""
