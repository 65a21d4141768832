package page_test

import (
	"fmt"
	"html"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"leitstand/core/check"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/report"
	"leitstand/core/report/page"
	"leitstand/core/station"
	"leitstand/examples"
)

// checked is the example, with all that is known of it.
func checked(t testing.TB) (*mapping.Mapping, check.Report, []*station.Station) {
	t.Helper()
	return checkedOf(t, examples.TideOffice)
}

func checkedOf(t testing.TB, text []byte) (*mapping.Mapping, check.Report, []*station.Station) {
	t.Helper()
	mp, diags, err := mapping.Load(mechanism.Folder{{Path: "m.hcl", Data: text}}, "m.hcl", "")
	require.NoError(t, err)
	require.False(t, diags.HasErrors(), "%v", diags)
	found, err := check.Mapping(mp, check.Here{}, nil)
	require.NoError(t, err)
	stations, err := station.All(mp, found.Builds)
	require.NoError(t, err)
	return mp, found, stations
}

// The page says of each machine and rule what validate says, in the words of the report, and nothing of a mapping gets out
// of its text: no element, no script.
func TestMake(t *testing.T) {
	mp, found, stations := checked(t)
	data, err := page.Make("<b>leitstand</b>.hcl", mp, found, stations)
	require.NoError(t, err)
	again, err := page.Make("<b>leitstand</b>.hcl", mp, found, stations)
	require.NoError(t, err)
	require.Equal(t, string(data), string(again), "same mapping, same bytes")
	text := string(data)
	require.Contains(t, text, "Keyboards by &lt;b&gt;leitstand&lt;/b&gt;.hcl")
	v := report.Validated(mp, found)
	for i, m := range v.Machines {
		require.True(t, strings.Contains(text, fmt.Sprintf(`id="m%d"`, i+1)), m.Machine)
		for _, p := range m.Presses {
			for _, said := range []string{p.Press, p.Does, p.Takes, p.Rule, p.Place} {
				escaped := strings.ReplaceAll(html.EscapeString(said), "+", "&#43;")
				require.True(t, strings.Contains(text, escaped), "%s: %s", m.Machine, said)
			}
		}
	}
}

// What a mapping says cannot become a part of the page.
func TestHostileTexts(t *testing.T) {
	const hostile = `</script><script>alert(1)</script><img src=x onerror=alert(2)>`
	mp, found, stations := checkedOf(t, []byte(fmt.Sprintf(
		"machine \"gauge\" {\n  system = \"linux\"\n  desktop = \"i3\"\n}\nlaunch \"F9\" {\n  run = [%[1]q]\n  why = %[1]q\n}\n"+
			"snippet \"F8\" { text = %[1]q }\n", hostile)))
	for _, write := range []func(string, *mapping.Mapping, check.Report, []*station.Station) ([]byte, error){page.Make, page.Sheet} {
		data, err := write(hostile, mp, found, stations)
		require.NoError(t, err)
		require.NotContains(t, string(data), "alert(1)</script>")
		require.NotContains(t, string(data), "<img")
	}
}

// BenchmarkMake makes the page of the example, which was checked before.
func BenchmarkMake(b *testing.B) {
	mp, found, _ := checked(b)
	for b.Loop() {
		stations, err := station.All(mp, found.Builds)
		require.NoError(b, err)
		_, err = page.Make("leitstand.hcl", mp, found, stations)
		require.NoError(b, err)
	}
}
