"""Who may do what: one table of rules, and the one guard that every request passes."""
