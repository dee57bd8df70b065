"""Reports on checked documents: what is found, beside samples, in every form that leaves."""
