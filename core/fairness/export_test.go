package fairness

import "nowthen/core/job"

// Said says a value in English. The words are above this package, so its outer tests bring them.
var Said func(v Value, j *job.Job) string

// Spoils are the ways to spoil a fair comparison, for the outer tests.
var Spoils, Fair = spoils, fair
