"""What is done with graphs: from rules and back, folding into own nodes, their outline and their layout."""
