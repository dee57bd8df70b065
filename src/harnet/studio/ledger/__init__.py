"""The ledger of a job, and batches on it."""
