// Package examples carries the example mapping of the program: a small
// tide-gauge office on an invented coast.
package examples

import "embed"

// TideOffice is the mapping of the tide office.
//
//go:embed tide-office/leitstand.hcl
var TideOffice []byte

// Files holds the examples as they lie in this folder.
//
//go:embed tide-office
var Files embed.FS
