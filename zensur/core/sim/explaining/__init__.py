"""What happened, in words: journeys leg by leg, and how they ended."""
