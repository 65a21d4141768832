package check_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/check"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/internal/sample"
)

// Whatever rules come together on whatever machines: nothing breaks off, the files do what
// the verdicts say, and the errors are the mapping's own.
func TestRandomMappings(t *testing.T) {
	sample.Anew(t, 1500)
	landed := map[cell]*[mechanism.Exact + 1]int{}
	rapid.Check(t, func(t *rapid.T) {
		d := sample.Mapping(t)
		var errs []string
		for _, f := range checked(t, d) {
			if f.Severity == diag.Error {
				errs = append(errs, f.Code)
				if f.Code != d.Wrong {
					t.Fatalf("%s: %s %v\n%s", f.Range, f.Summary, f.Machines, d.Text)
				}
			}
		}
		if d.Wrong != "" && !slices.Contains(errs, d.Wrong) {
			t.Fatalf("%s is not told\n%s", d.Wrong, d.Text)
		}
		if len(errs) == 0 {
			count(landed, d.Mapping)
		}
	})
	t.Log("\n" + table(landed))
	requireCells(t, landed)
}

func checked(t *rapid.T, d sample.Drawn) diag.List {
	r, err := check.Read(d.Mapping, d.Found, check.Here{}, nil)
	require.NoError(t, err, "%s", d.Text)
	return r.Findings
}

// cell is a kind of rule and a mechanism that it landed in, "" for none.
type cell struct {
	kind      mapping.Kind
	mechanism string
}

func count(landed map[cell]*[mechanism.Exact + 1]int, mp *mapping.Mapping) {
	builds, _, _ := compile.All(mp, nil, nil)
	for _, b := range builds {
		for _, l := range b.Landings {
			c := cell{kind: l.Rule.Head().Kind}
			if l.Mechanism != nil {
				c.mechanism = l.Mechanism.Facts().Name
			}
			if landed[c] == nil {
				landed[c] = new([mechanism.Exact + 1]int)
			}
			landed[c][l.Offer.Verdict]++
		}
	}
}

func table(landed map[cell]*[mechanism.Exact + 1]int) string {
	var w strings.Builder
	fmt.Fprintf(
		&w, "%-8s  %-14s %8s %8s %8s %12s %12s\n", "rule", "mechanism", "exact", "limited", "manual", "needs-agent", "unavailable",
	)
	var list []cell
	for c := range landed {
		list = append(list, c)
	}
	slices.SortFunc(list, func(a, b cell) int {
		return strings.Compare(string(a.kind)+" "+a.mechanism, string(b.kind)+" "+b.mechanism)
	})
	for _, c := range list {
		n := landed[c]
		fmt.Fprintf(
			&w, "%-8s  %-14s %8d %8d %8d %12d %12d\n", c.kind, c.mechanism, n[mechanism.Exact], n[mechanism.Limited],
			n[mechanism.Manual], n[mechanism.NeedsAgent], n[mechanism.Unavailable],
		)
	}
	return w.String()
}

// reached are the mechanisms that a kind of rule must land in among the random mappings, or the mappings say less
// than they seem to. A macro waits for a resident program.
var reached = map[mapping.Kind]string{
	mapping.KindHands:        "hidutil hwdb scancodemap steps xkb",
	mapping.KindSwap:         "hidutil hwdb scancodemap steps xkb",
	mapping.KindHyper:        "hidutil hwdb scancodemap xkb",
	mapping.KindRemap:        "console hidutil hwdb scancodemap steps xkb",
	mapping.KindDisable:      "cinnamon console filter gnome hidutil hwdb i3 mate plasma scancodemap sway xfce xkb",
	mapping.KindLaunch:       "appkeys cinnamon gnome i3 mate plasma services shelllink steps sway xfce",
	mapping.KindAction:       "cinnamon console gnome hotkeys i3 mate menukeys plasma stock sway xfce xkb",
	mapping.KindLayer:        "compose hidutil hwdb xkb",
	mapping.KindSnippet:      "compose console keylayout textkeys",
	mapping.KindAbbreviation: "compose texts",
	mapping.KindMacro:        "",
	mapping.KindMenu:         "menukeys",
	mapping.KindRepeat:       "cinnamon gnome hidutil i3 mate plasma responses sway xfce",
	mapping.KindNative:       "",
}

func requireCells(t *testing.T, landed map[cell]*[mechanism.Exact + 1]int) {
	for kind, names := range reached {
		sum := 0
		for c, n := range landed {
			if c.kind == kind {
				sum += n[mechanism.Unavailable] + n[mechanism.NeedsAgent]
			}
		}
		require.NotZero(t, sum, "no %s is refused anywhere", kind)
		for _, name := range strings.Fields(names) {
			n := landed[cell{kind, name}]
			require.NotNil(t, n, "no %s lands in %s", kind, name)
			require.NotZero(
				t, n[mechanism.Exact]+n[mechanism.Limited]+n[mechanism.Manual], "no %s lands in %s", kind, name,
			)
		}
	}
}
