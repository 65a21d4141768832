package check_test

import (
	"slices"
	"testing"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/check"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/intent"
	"leitstand/core/land"
	"leitstand/core/mapping"
	"leitstand/internal/sample"
)

// Nothing that a mapping asks for is dropped silently: every block and row of the text is a rule, every rule lands on every
// machine that it is for, and what lands in no mechanism has a finding.
func TestNothingIsDropped(t *testing.T) {
	sample.Anew(t, 150)
	counted := map[string]int{}
	rapid.Check(t, func(t *rapid.T) {
		d := sample.Valid(t)
		r, err := check.Mapping(d.Mapping, check.Here{}, nil)
		require.NoError(t, err)
		lines, rows := statements(t, d.Text)
		for _, line := range lines {
			counted["statements"]++
			require.True(t, slices.ContainsFunc(d.Mapping.Rules, func(r mapping.Rule) bool {
				return int(r.Head().Range.Start.Line) == line
			}), "line %d is no rule\n%s", line, d.Text)
		}
		for _, b := range r.Builds {
			for _, rule := range d.Mapping.Rules {
				reaches := mapping.Reaches(d.Mapping, rule, b.Machine.Machine).Why == ""
				if !rule.Head().Enabled || !reaches {
					continue
				}
				counted["rules"]++
				require.True(t, arrives(b, rule), "%s does not arrive on %s\n%s", mapping.Title(rule), b.Machine.Name, d.Text)
			}
			for _, row := range rows {
				if arrivesAt(b, row.layer) {
					counted["keys of layers"]++
					require.True(t, arrivesAt(b, row.line), "line %d does not arrive on %s\n%s", row.line, b.Machine.Name, d.Text)
				}
			}
			for i := range b.Landings {
				l := &b.Landings[i]
				if l.Mechanism == nil {
					counted["not done"]++
					require.True(t, told(l, b, r.Findings), "%s on %s: %s\n%s", l.Binding.Press(), b.Machine.Name, l.Why(), d.Text)
				}
			}
		}
	})
	for _, what := range []string{"statements", "rules", "keys of layers", "not done"} {
		require.Greater(t, counted[what], 200, what)
	}
}

// arrives reports whether a rule has a landing, or is reported as overruled by another. An order of hands that the
// keyboard already has needs no landing.
func arrives(b *compile.Build, rule mapping.Rule) bool {
	return rule.Head().Kind == mapping.KindHands ||
		slices.ContainsFunc(b.Landings, func(l land.Landing) bool { return l.Rule == rule }) ||
		slices.ContainsFunc(b.Beaten, func(o intent.Beaten) bool { return o.Loser == rule })
}

// arrivesAt reports whether a line of the text has a landing.
func arrivesAt(b *compile.Build, line int) bool {
	return slices.ContainsFunc(b.Landings, func(l land.Landing) bool { return int(l.Range.Start.Line) == line })
}

// told reports whether a landing without a mechanism has a finding in its rule, or the rule allows that it is not done.
func told(l *land.Landing, b *compile.Build, list diag.List) bool {
	m := b.Machine.Machine
	for _, code := range []string{"unavailable", "needs-agent", "system-keeps"} {
		if mapping.Allows(l.Rule, m, code) {
			return true
		}
	}
	head := l.Rule.Head().Range
	return slices.ContainsFunc(list, func(d diag.Diagnostic) bool {
		return slices.Contains(d.Machines, m.Name) && d.Range.File == head.File &&
			(d.Range.Start.Line == l.Range.Start.Line || d.Range.Start.Line == head.Start.Line || d.Rule == head)
	})
}

// single are the blocks that are rules.
var single = []string{
	"remap", "disable", "launch", "action", "menu", "macro", "swap", "hyper", "layer", "snippet", "abbreviation", "repeat",
	"hands", "native",
}

// row is a line of a layer's keys, with that of the layer's key.
type row struct{ layer, line int }

// statements are the lines where rules begin, and the keys of layers, by a reading of the text that does not know what
// they mean.
func statements(t *rapid.T, text string) (lines []int, rows []row) {
	f, diags := hclsyntax.ParseConfig([]byte(text), "drawn.hcl", hcl.InitialPos)
	require.False(t, diags.HasErrors())
	var walk func(*hclsyntax.Body)
	walk = func(body *hclsyntax.Body) {
		lines = append(lines, rowsOf(body)...)
		for _, b := range body.Blocks {
			switch {
			case b.Type == "on" || b.Type == "group":
				walk(b.Body)
			case slices.Contains(single, b.Type):
				lines = append(lines, b.TypeRange.Start.Line)
			}
			if b.Type == "layer" {
				rows = append(rows, keysOf(b.Body)...)
			}
		}
	}
	walk(f.Body.(*hclsyntax.Body))
	return lines, rows
}

// rowsOf are the lines of a block's table.
func rowsOf(body *hclsyntax.Body) (lines []int) {
	table, ok := body.Attributes["keys"]
	if !ok {
		return nil
	}
	for _, row := range table.Expr.(*hclsyntax.ObjectConsExpr).Items {
		lines = append(lines, row.KeyExpr.Range().Start.Line)
	}
	return lines
}

// keysOf are the keys of a layer.
func keysOf(layer *hclsyntax.Body) (rows []row) {
	at := 0
	for _, how := range []string{"while", "toggle", "once"} {
		if a := layer.Attributes[how]; a != nil {
			at = a.SrcRange.Start.Line
		}
	}
	for _, line := range rowsOf(layer) {
		rows = append(rows, row{at, line})
	}
	return rows
}
