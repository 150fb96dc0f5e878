"""Looking into runs: watches, expectations, why and why not, comparison."""
