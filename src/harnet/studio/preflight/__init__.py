"""What is found in a job, the gate, the report, review links."""
