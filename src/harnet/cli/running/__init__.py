"""Commands for those who run a studio: serve, people, settings, backups, tidying."""
