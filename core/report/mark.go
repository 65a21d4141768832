package report

import (
	"leitstand/core/diag"
	"leitstand/core/mechanism"
)

// VerdictMark is the sign of a verdict, the same in tables, pictures and pages.
func VerdictMark(v mechanism.Verdict) string {
	return map[mechanism.Verdict]string{
		mechanism.Exact: "=", mechanism.Limited: "≈", mechanism.Manual: "✎", mechanism.NeedsAgent: "…", mechanism.Unavailable: "✗",
	}[v]
}

// SeverityMark is the sign of a finding's severity.
func SeverityMark(s diag.Severity) string {
	return map[diag.Severity]string{diag.Error: "✗", diag.Warning: "!", diag.Note: "·"}[s]
}
