// Package leitstand carries what belongs to the project as a whole.
package leitstand

import _ "embed"

// Notice is what the embedded data and the linked libraries ask to be told.
//
//go:embed NOTICE
var Notice string
