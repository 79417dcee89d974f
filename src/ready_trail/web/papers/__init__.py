"""Documents on paper, one a file: what each says of a job, as blocks for the typesetter."""
