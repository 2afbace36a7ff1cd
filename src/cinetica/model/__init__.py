"""What the nouns are: tune, course, take, drill, clock, study. Declarations and validation only."""
