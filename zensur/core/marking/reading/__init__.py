"""What a learner probably meant: free names paired with the model answer's, and lines that were not understood."""
