"""Compares a learner's network with the model answer, criterion by criterion."""
