package report_test

import (
	"bytes"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/diag"
	"leitstand/core/report"
)

// What is written as JSON decodes to what it was, and holds no sign that a terminal acts on, within one character or in
// several.
func TestJSONDecodesToWhatItWas(t *testing.T) {
	signs := rapid.OneOf(rapid.Rune(), rapid.SampledFrom([]rune{
		'\u202e', '\u2066', '\u200b', '\ufeff', '\u2028', '\u009b', '\x1b', '\a', '\x7f', '\u00ad', '\u200d', '\U000e0041',
		'\U0001f30a', '<', '&', '"', '\\', '\n', '\t',
	}))
	texts := rapid.StringOfN(signs, 0, 20, -1)
	rapid.Check(t, func(t *rapid.T) {
		was := map[string][]string{}
		for range rapid.IntRange(0, 4).Draw(t, "names") {
			was[texts.Draw(t, "name")] = rapid.SliceOfN(texts, 1, 3).Draw(t, "texts")
		}
		var w bytes.Buffer
		require.NoError(t, report.Write(&w, was))
		for _, r := range w.String() {
			require.False(t, report.Harmful(r), "%U in %q", r, w.String())
		}
		var is map[string][]string
		require.NoError(t, json.Unmarshal(w.Bytes(), &is))
		require.Equal(t, was, is)
	})
}

// Each finding is one result of SARIF, whose index names its own rule, and each rule is there once.
func TestResultsOfSARIFNameTheirRules(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		codes := rapid.SampledFrom([]string{"taken", "unavailable", "lost-key", "unknown-key", "bad-chord"})
		var list diag.List
		for _, code := range rapid.SliceOfN(codes, 0, 12).Draw(t, "codes") {
			list = append(list, diag.Diagnostic{Code: code, Severity: diag.Warning, Summary: "of " + code})
		}
		var w bytes.Buffer
		require.NoError(t, report.Write(&w, report.SARIF(list)))
		var got struct {
			Runs []struct {
				Tool struct {
					Driver struct {
						Rules []struct{ ID string }
					}
				}
				Results []struct {
					RuleID    string
					RuleIndex int
					Message   struct{ Text string }
				}
			}
		}
		require.NoError(t, json.Unmarshal(w.Bytes(), &got))
		require.Len(t, got.Runs, 1)
		rules, seen := got.Runs[0].Tool.Driver.Rules, map[string]bool{}
		for _, r := range rules {
			require.False(t, seen[r.ID], r.ID)
			seen[r.ID] = true
		}
		require.Len(t, got.Runs[0].Results, len(list))
		for i, r := range got.Runs[0].Results {
			require.Equal(t, list[i].Code, r.RuleID)
			require.Equal(t, "of "+list[i].Code, r.Message.Text)
			require.GreaterOrEqual(t, r.RuleIndex, 0)
			require.Less(t, r.RuleIndex, len(rules))
			require.Equal(t, r.RuleID, rules[r.RuleIndex].ID)
		}
	})
}
