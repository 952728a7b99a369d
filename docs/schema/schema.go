// Package schema holds the published JSON Schemas of the open file formats. The program
// validates files against the same text that others read.
package schema

import _ "embed"

// Job is the JSON Schema (2020-12) of a job file.
//
//go:embed job.schema.json
var Job []byte

// Sitting is the JSON Schema (2020-12) of a sitting file.
//
//go:embed sitting.schema.json
var Sitting []byte
