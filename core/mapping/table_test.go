package mapping_test

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/mapping"
)

// rulesOf spells the rules of a text, each with its line.
func rulesOf(t *testing.T, text string) []string {
	t.Helper()
	m, diags := load(t, text)
	require.Empty(t, said(diags), text)
	var list []string
	for _, r := range m.Rules {
		line := fmt.Sprintf(
			"%d: %s", r.Head().Range.Start.Line,
			strings.Join(append([]string{mapping.Title(r)}, mapping.Details(r)...), " | "),
		)
		if on := r.Head().Scope.String(); on != "" {
			line += " | on " + on
		}
		list = append(list, line)
	}
	return list
}

// Each row of a table is a rule of its own, with what the blocks around the table say for all of them.
func TestTables(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{`group "idle" {
  why  = "idle"
  keys = {
    CapsLock     = "Escape"
    "Ctrl+Alt+v" = "Ctrl+Shift+v"
    KeyF         = { tap = "KeyF", hold = "ShiftLeft", why = "home row" }
    Insert       = { to = "off", everyone = true }
    F7           = { text = "NHN ${x}" }
    F8           = { does = "close" }
    F9           = { run = ["tidegauge", "--all"], dir = "/srv" }
    F10          = { steps = [{ press = "F1" }] }
    f11          = "F1"
    Home         = "off"
    End          = { item = "Export…" }
  }
}`, `4: remap CapsLock = Escape | to Escape | group idle | why "idle"
5: remap Ctrl+Alt+v = Ctrl+Shift+v | to Ctrl+Shift+v | group idle | why "idle"
6: remap KeyF = KeyF / ShiftLeft | tap KeyF | hold ShiftLeft | group idle | why "home row"
7: disable Insert | everyone true | group idle | why "idle"
8: snippet F7 | text "NHN ${x}" | group idle | why "idle"
9: action F8 close | does close | group idle | why "idle"
10: launch F9 tidegauge | run "tidegauge" "--all" | dir /srv | group idle | why "idle"
11: macro F10 | steps press F1 | group idle | why "idle"
12: remap F11 = F1 | to F1 | group idle | why "idle"
13: disable Home | group idle | why "idle"
14: menu End Export… | item "Export…" | group idle | why "idle"`},
		{`app "terminal" { linux = "xterm" }
let {
  gauge = "Hyper+g"
  words = ["tidegauge", "Süderhaff"]
}
keys = {
  "Hyper+t"    = { app = "terminal", on = "linux" }
  "Hyper+b"    = { app = "terminal", override = true }
  "Hyper+k, t" = { open = "https://tides.example" }
  (let.gauge)  = { run = let.words }
  F12          = { run = "x", fallback = ["F9", "F10"] }
}
on "gnome" {
  keys = { F1 = "F2" }
  disable "F3" {}
}`, `7: launch Hyper+t terminal | app terminal | on linux
8: launch Hyper+b terminal | app terminal | override true
9: launch Hyper+k, t https://tides.example | open https://tides.example
10: launch Hyper+g tidegauge | run "tidegauge" "Süderhaff"
11: launch F12 x | run "x" | fallback F9; F10
14: remap F1 = F2 | to F2 | on gnome
15: disable F3 | on gnome`},
		{"keys = { F7 = { steps = [{ press = \"F1\" }, { text = \"a b\" }] }, F8 = { steps = [{ press = \"F2\" }] } }",
			"1: macro F7 | steps press F1 | steps type a b\n1: macro F8 | steps press F2"},
	} {
		assert.Equal(t, c.want, strings.Join(rulesOf(t, c.text), "\n"))
	}
	assert.Equal(t, []string{"1: abbreviation ;ä | end space | case exact | text \"a\u0308\""},
		rulesOf(t, "abbreviation \";\u00e4\" { text = \"a\u0308\" }"))
}

// A table has its place among the blocks: rules come in the order of their lines.
func TestTableKeepsItsPlace(t *testing.T) {
	for table := range 4 {
		lines := []string{`disable "F1" {}`, `disable "F2" {}`, `disable "F3" {}`}
		lines = slices.Insert(lines, table, `keys = { F4 = "off", F5 = "off" }`)
		var got []int
		for i, r := range rulesOf(t, strings.Join(lines, "\n")) {
			line, _, _ := strings.Cut(r, ":")
			n, err := strconv.Atoi(line)
			require.NoError(t, err)
			got = append(got, n)
			assert.True(t, i == 0 || got[i-1] <= n, "table at %d: %v", table, got)
		}
		assert.Len(t, got, 5)
	}
}

// on and group say for their rules what these do not say themselves.
func TestDefaults(t *testing.T) {
	assert.Equal(t, []string{
		`17: disable Insert | need exact | override true | everyone true | in_front gauge | allow unavailable | group g | why "tides" | on linux, not shed`,
		`19: disable F1 | enabled false | need exact | in_front other | allow unavailable, taken, no-shell | group g/h | why "mine" | on linux, not shed, not gauge, office`,
		`31: disable F2 | everyone true | on linux, not shed`,
		`33: disable F3`,
	}, rulesOf(t, `machine "office" { system = "linux" }
machine "shed" { system = "linux" }
machine "gauge" { system = "linux" }
app "gauge" { linux = "x" }
app "other" { linux = "y" }
on "linux" {
  except   = "shed"
  everyone = true
  group "g" {
    need     = "exact"
    override    = true
    in_front = "gauge"
    why      = "tides"
    allow    = "unavailable"
    # A group in a group, switched off.

    disable "Insert" {}
    group "h" {
      disable "F1" {
        on       = "office"
        why      = "mine"
        in_front = "other"
        override    = false
        everyone = false
        allow    = ["unavailable", "taken", "no-shell"]
      }
      except  = "gauge"
      enabled = false
    }
  }
  disable "F2" {}
}
disable "F3" {}
`))
}
