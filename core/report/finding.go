package report

import (
	"slices"

	"leitstand/core/diag"
)

// Finding is a diagnostic.
type Finding struct {
	Severity string   `json:"severity"`
	Code     string   `json:"code"`
	Summary  string   `json:"summary"`
	Advice   string   `json:"advice,omitempty"`
	File     string   `json:"file,omitempty"`
	Line     int      `json:"line,omitempty"`
	Column   int      `json:"column,omitempty"`
	Source   string   `json:"source,omitempty"`
	Machines []string `json:"machines,omitempty"`
}

// Findings are diagnostics, in their order.
func Findings(list diag.List) []Finding {
	out := make([]Finding, 0, len(list))
	for _, d := range list {
		out = append(out, Finding{
			d.Severity.String(), d.Code, d.Summary, d.Advice, d.Range.File,
			int(d.Range.Start.Line), int(d.Range.Start.Column), d.Line, slices.Clone(d.Machines),
		})
	}
	return out
}
