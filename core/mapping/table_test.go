package mapping_test

import (
	"fmt"
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

// Each row of a table is a rule of its own, with what the block says for all of them.
func TestTables(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{`remap {
  why = "idle"
  to  = {
    CapsLock     = "Escape"
    "Ctrl+Alt+v" = "Ctrl+Shift+v"
    KeyF         = { tap = "KeyF", hold = "ShiftLeft", why = "home row" }
    Insert       = { to = "off", everyone = true }
    F7           = { text = "NHN ${x}" }
    F8           = { does = "close" }
    F9           = { run = ["tidegauge", "--all"], dir = "/srv" }
    F10          = { steps = ["press F1"] }
    f11          = "F1"
    Home         = "off"
  }
}`, `4: remap CapsLock = Escape | to Escape | why "idle"
5: remap Ctrl+Alt+v = Ctrl+Shift+v | to Ctrl+Shift+v | why "idle"
6: remap KeyF = KeyF / ShiftLeft | tap KeyF | hold ShiftLeft | why "home row"
7: disable Insert | everyone true | why "idle"
8: snippet F7 | text "NHN ${x}" | why "idle"
9: action F8 close | does close | why "idle"
10: launch F9 tidegauge | run "tidegauge" "--all" | dir /srv | why "idle"
11: macro F10 | steps press F1 | why "idle"
12: remap F11 = F1 | to F1 | why "idle"
13: disable Home | why "idle"`},
		{`app "terminal" { linux = "xterm" }
let {
  gauge = "Hyper+g"
  words = ["tidegauge", "Süderhaff"]
}
launch {
  app = {
    "Hyper+t" = "terminal"
    "Hyper+b" = { app = "terminal", takes = true }
  }
  open = { "Hyper+k, t" = "https://tides.example" }
  run  = {
    (let.gauge) = let.words
    F12         = "x"
  }
  fallback = "F9"
  dir      = "/srv"
}`, `8: launch Hyper+t terminal | app terminal | dir /srv | fallback F9
9: launch Hyper+b terminal | app terminal | dir /srv | fallback F9 | takes true
11: launch Hyper+k, t https://tides.example | open https://tides.example | dir /srv | fallback F9
13: launch Hyper+g tidegauge | run "tidegauge" "Süderhaff" | dir /srv | fallback F9
14: launch F12 x | run "x" | dir /srv | fallback F9`},
		{"action { does = { \"Meta+q\" = \"close\" } }", "1: action Meta+q close | does close"},
		{"macro { steps = { F7 = [\"press F1\", { text = \"a b\" }], F8 = \"press F2\" } }", "1: macro F7 | steps " +
			"press F1 | steps type a b\n1: macro F8 | steps press F2"},
		{"disable {\n  keys = [\n    \"Insert\",\n    \"Meta+h\",\n  ]\n  why = \"x\"\n}", "3: disable Insert | " +
			"why \"x\"\n4: disable Meta+h | why \"x\""},
		{"disable { keys = \"Insert\" }", "1: disable Insert"},
	} {
		assert.Equal(t, c.want, strings.Join(rulesOf(t, c.text), "\n"))
	}
	assert.Equal(t, []string{"1: snippet ;ä | end space | case exact | text \"a\u0308\"", "1: snippet nhn | end " +
		"any | case exact | text \"NHN\""},
		rulesOf(t, "snippet { abbreviation = { \";\u00e4\" = \"a\u0308\", nhn = { text = \"NHN\", end = \"any\" } } }"))
}

// on and group say for their rules what these do not say themselves.
func TestDefaults(t *testing.T) {
	assert.Equal(t, []string{
		`17: disable Insert | need exact | takes true | everyone true | in_front gauge | allow not-done | group g | why "tides" | on linux, not shed`,
		`19: disable F1 | enabled false | need exact | in_front other | allow not-done, taken, no-shell | group g/h | why "mine" | on linux, not shed, not gauge, office`,
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
    takes    = true
    in_front = "gauge"
    why      = "tides"
    allow    = "not-done"
    # A group in a group, switched off.

    disable "Insert" {}
    group "h" {
      disable "F1" {
        on       = "office"
        why      = "mine"
        in_front = "other"
        takes    = false
        everyone = false
        allow    = ["not-done", "taken", "no-shell"]
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
