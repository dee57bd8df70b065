"""Commands on documents made elsewhere: check, extract, improve, watch."""
