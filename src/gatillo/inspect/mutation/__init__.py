"""Mutation testing: small changes to a level, each run against its trials, to see which of them nothing notices."""
