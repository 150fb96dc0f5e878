"""What is done with graphs: converting rules to them and back, folding into own nodes, outline and layout."""
