// Package api holds the descriptions of the HTTP API.
package api

import _ "embed"

// Compute is the OpenAPI description of the compute routes, made from the types of the
// core with their comments.
//
//go:embed compute_gen.json
var Compute []byte
