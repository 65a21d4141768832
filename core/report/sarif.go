package report

import (
	"slices"
	"strings"

	"leitstand/core/audit"
	"leitstand/core/diag"
)

// The parts of SARIF 2.1.0, the OASIS standard for the results of checkers, that
// findings need.
type sarifLog struct {
	Schema  string     `json:"$schema"`
	Version string     `json:"version"`
	Runs    []sarifRun `json:"runs"`
}

type sarifRun struct {
	Tool       sarifTool     `json:"tool"`
	Results    []sarifResult `json:"results"`
	ColumnKind string        `json:"columnKind"`
}

type sarifTool struct {
	Driver sarifDriver `json:"driver"`
}

type sarifDriver struct {
	Name  string      `json:"name"`
	Rules []sarifRule `json:"rules"`
}

type sarifRule struct {
	ID    string     `json:"id"`
	Short *sarifText `json:"shortDescription,omitempty"`
	Full  *sarifText `json:"fullDescription,omitempty"`
}

type sarifText struct {
	Text string `json:"text"`
}

type sarifResult struct {
	RuleID    string          `json:"ruleId"`
	RuleIndex int             `json:"ruleIndex"`
	Level     string          `json:"level"`
	Message   sarifText       `json:"message"`
	Locations []sarifLocation `json:"locations,omitempty"`
}

type sarifLocation struct {
	Physical sarifPhysical `json:"physicalLocation"`
}

type sarifPhysical struct {
	Artifact sarifArtifact `json:"artifactLocation"`
	Region   *sarifRegion  `json:"region,omitempty"`
}

type sarifArtifact struct {
	URI string `json:"uri"`
}

type sarifRegion struct {
	StartLine   int32 `json:"startLine"`
	StartColumn int32 `json:"startColumn"`
	EndLine     int32 `json:"endLine,omitempty"`
	EndColumn   int32 `json:"endColumn,omitempty"`
}

// SARIF is findings as SARIF 2.1.0 has them.
func SARIF(list diag.List) any {
	run := sarifRun{
		Tool:       sarifTool{sarifDriver{"leitstand", []sarifRule{}}},
		Results:    []sarifResult{},
		ColumnKind: "unicodeCodePoints",
	}
	rules := &run.Tool.Driver.Rules
	for _, d := range list {
		i := slices.IndexFunc(*rules, func(r sarifRule) bool { return r.ID == d.Code })
		if i < 0 {
			rule := sarifRule{ID: d.Code}
			if f, ok := audit.Find(d.Code); ok {
				rule.Short, rule.Full = &sarifText{f.Title}, &sarifText{f.About}
			}
			i = len(*rules)
			*rules = append(*rules, rule)
		}
		text := d.Summary
		if len(d.Machines) > 0 {
			text += " (on " + strings.Join(d.Machines, ", ") + ")"
		}
		if d.Advice != "" {
			text += ". " + d.Advice
		}
		r := sarifResult{RuleID: d.Code, RuleIndex: i, Level: d.Severity.String(), Message: sarifText{text}}
		if d.Range.File != "" {
			at := sarifPhysical{Artifact: sarifArtifact{d.Range.File}}
			if d.Range.Start.Line > 0 {
				at.Region = &sarifRegion{d.Range.Start.Line, d.Range.Start.Column, d.Range.End.Line, d.Range.End.Column}
			}
			r.Locations = []sarifLocation{{at}}
		}
		run.Results = append(run.Results, r)
	}
	return sarifLog{"https://json.schemastore.org/sarif-2.1.0.json", "2.1.0", []sarifRun{run}}
}
