// Package examples carries the example mappings: a small tide-gauge office on an invented
// coast, which the program shows as its example, and three more from places near by.
package examples

import "embed"

// TideOffice is the mapping of the tide office.
//
//go:embed tide-office/leitstand.hcl
var TideOffice []byte

// Files holds the examples as they lie in this folder.
//
//go:embed tide-office tide-pole lighthouse pilot-school
var Files embed.FS
