package mapping_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/mapping"
)

const coast = `
machine "office" {
  system  = "linux"
  desktop = "gnome"
  session = "wayland"
  boards  = ["chart-table", "wheelhouse"]
}
machine "gauge" {
  system  = "linux"
  desktop = "i3"
  boards  = ["outside", "wheelhouse"]
}
machine "shed" {
  system  = "linux"
  desktop = "gnome"
}
machine "lab" {
  system = "windows"
  boards = ["chart-table"]
}
machine "vessel" { system = "macos" }
board "chart-table" { ids = ["usb:1209:0001"] }
board "wheelhouse" { ids = ["usb:1209:0002", "built-in"] }
board "outside" { ids = ["any external"] }
`

// scoped loads rules whose scopes are looked at, and gives them.
func scoped(t require.TestingT, rules string) (*mapping.Mapping, []mapping.Scope) {
	m, diags := loadText(t, coast+rules)
	require.Empty(t, said(diags), rules)
	var list []mapping.Scope
	for _, r := range m.Rules {
		list = append(list, r.Head().Scope)
	}
	return m, list
}

// Names of one kind are alternatives, names of different kinds intersect, and what is
// excepted is taken out.
func TestScopeApplies(t *testing.T) {
	for _, c := range []struct{ head, want string }{
		{``, "office: every; gauge: every; shed: every; lab: every; vessel: every"},
		{`on = "linux"`, "office: every; gauge: every; shed: every"},
		{`on = ["linux", "lab"]`, "office: every; gauge: every; shed: every; lab: every"},
		{`on = ["linux", "chart-table"]`, "office: chart-table"},
		{`on = ["linux", "lab", "wheelhouse", "chart-table"]`, "office: chart-table wheelhouse; gauge: wheelhouse; " +
			"lab: chart-table"},
		{`on = "outside"`, "office: chart-table; gauge: outside; lab: chart-table"},
		{`on = ["gnome"]`, "office: every; shed: every"},
		{`on = ["gnome", "i3", "gauge", "lab"]`, "gauge: every"},
		{`on = "wayland"`, "office: every"},
		{`on = "x11"`, "gauge: every"},
		{`on = ["macos", "gnome"]`, ""},
		{`except = ["linux", "macos"]`, "lab: every"},
		{`except = ["gnome", "wheelhouse"]`, "gauge: every but wheelhouse; lab: every; vessel: every"},
		{`except = "outside"`, "office: every but chart-table; gauge: every but outside; shed: every; lab: every " +
			"but chart-table; vessel: every"},
		{"on = \"linux\"\n  except = [\"shed\", \"chart-table\"]", "office: every but chart-table; gauge: every"},
		{"on = [\"wheelhouse\", \"chart-table\"]\n  except = \"chart-table\"", "office: wheelhouse; gauge: wheelhouse"},
	} {
		mp, scopes := scoped(t, "disable \"Insert\" {\n  "+c.head+"\n}\n")
		var got []string
		for _, m := range mp.Machines {
			r := scopes[0].Applies(mp, m)
			if r.Why != "" {
				continue
			}
			part := "every"
			if len(r.Without) > 0 {
				part += " but " + strings.Join(r.Without, " ")
			}
			if !r.Every {
				part = strings.Join(r.Boards, " ")
			}
			got = append(got, m.Name+": "+part)
		}
		assert.Equal(t, c.want, strings.Join(got, "; "), c.head)
	}
}

func TestScopeWithin(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want bool
	}{
		{``, ``, true},
		{`on = "linux"`, ``, true},
		{``, `on = "linux"`, false},
		{`on = "office"`, `on = "linux"`, true},
		{`on = ["office", "lab"]`, `on = "linux"`, false},
		{`on = ["office", "lab"]`, `on = ["linux", "windows"]`, true},
		{`on = ["linux", "chart-table"]`, `on = "chart-table"`, true},
		{`on = "chart-table"`, `on = "linux"`, false},
		{`on = "chart-table"`, `on = "outside"`, true},
		{`on = ["office", "chart-table"]`, `on = ["linux", "chart-table", "wheelhouse"]`, true},
		{`on = "gnome"`, `on = "linux"`, true},
		{`on = "wayland"`, `on = ["linux", "windows"]`, true},
		{`on = "office"`, `on = "gnome"`, true},
		{`on = "office"`, `on = ["gnome", "i3"]`, true},
		{`on = ["office", "gauge"]`, `on = "gnome"`, false},
		{`on = "linux"`, `on = "gnome"`, false},
		{`except = "office"`, ``, true},
		{`except = "office"`, `on = "linux"`, false},
		{``, `except = "office"`, false},
		{`on = "lab"`, `except = "office"`, true},
		{`on = "lab"`, `except = ["linux", "i3", "macos"]`, true},
		{`on = "office"`, `except = ["i3", "gauge"]`, true},
		{`on = "office"`, `except = "wayland"`, false},
		{`on = "i3"`, `except = "office"`, true},
		{`on = "i3"`, `except = "wayland"`, true},
		{`on = "gnome"`, `except = "plasma"`, true},
		{`on = "windows"`, `except = "plasma"`, true},
		{`on = "linux"`, `except = "plasma"`, false},
		{`on = "linux"`, `except = "office"`, false},
		{`except = "linux"`, `except = "office"`, true},
		{`except = "gnome"`, `except = "office"`, true},
		{`except = "office"`, `except = "linux"`, false},
		{`except = "outside"`, `except = "chart-table"`, true},
		{`on = "wheelhouse"`, `except = "chart-table"`, true},
		{`on = "chart-table"`, `except = "outside"`, false},
		{"on = \"linux\"\n  except = \"office\"", `on = "linux"`, true},
	} {
		mp, s := scoped(t, fmt.Sprintf("disable \"Insert\" {\n  %s\n}\ndisable \"F1\" {\n  %s\n}\n", c.a, c.b))
		assert.Equal(t, c.want, s[0].Within(s[1], mp), "%q in %q", c.a, c.b)
	}
}

// What is said to be part of another scope is: on every machine and board of the mapping.
func TestScopeWithinIsTrue(t *testing.T) {
	names := []string{
		"linux", "windows", "macos", "gnome", "i3", "plasma", "wayland", "x11", "office", "gauge", "shed", "lab",
		"chart-table", "wheelhouse", "outside",
	}
	within := 0
	rapid.Check(t, func(t *rapid.T) {
		attrs := func(what string) string {
			var text string
			for _, a := range []string{"on", "except"} {
				list := rapid.SliceOfNDistinct(rapid.SampledFrom(names), 0, 3, rapid.ID).Draw(t, what+a)
				if len(list) > 0 {
					text += fmt.Sprintf("  %s = [\"%s\"]\n", a, strings.Join(list, `", "`))
				}
			}
			return text
		}
		a, b := attrs("a"), attrs("b")
		mp, s := scoped(t, "disable \"Insert\" {\n"+a+"}\ndisable \"F1\" {\n"+b+"}\n")
		if !s[0].Within(s[1], mp) {
			return
		}
		within++
		on := func(r mapping.Reach, board string) bool {
			return r.Why == "" && (r.Every && !slices.Contains(r.Without, board) || slices.Contains(r.Boards, board))
		}
		for _, m := range mp.Machines {
			inner, outer := s[0].Applies(mp, m), s[1].Applies(mp, m)
			for _, board := range append([]string{""}, m.Boards...) {
				if on(inner, board) && !on(outer, board) {
					t.Fatalf("on %s with board %q\n%s is not within\n%s", m.Name, board, a, b)
				}
			}
		}
	})
	assert.Greater(t, within, 10)
}

// Every rule that does not hold on a machine is told with its reason.
func TestAbsentFrom(t *testing.T) {
	mp, _ := scoped(t, `
disable "F1" { on = "macos" }
disable "F2" { on = ["i3", "wayland"] }
disable "F3" { on = "outside" }
disable "F4" { except = "gnome" }
disable "F5" { enabled = false }
group "night" {
  enabled = false
  disable "F6" {}
}
native "windows" { settings = { "a" = 1 } }
disable "F7" { on = "linux" }
disable "F8" { on = "macos" }
disable "F9" {
  on     = "wheelhouse"
  except = "wheelhouse"
}
`)
	for name, want := range map[string]string{
		"shed": "it is for macos: disable F1, disable F8\nit is for i3, wayland, and the machine does not say its " +
			"session: disable F2\nit is for the board outside, which the machine does not have: disable F3\n" +
			"it leaves out gnome: disable F4\nit is switched off: disable F5\nthe group \"night\" is switched off: " +
			"disable F6\nits settings are for windows: native windows\nit is for the board wheelhouse, which " +
			"the machine does not have: disable F9",
		"office": "it is for macos: disable F1, disable F8\nit leaves out gnome: disable F4\nit is switched off: " +
			"disable F5\nthe group \"night\" is switched off: disable F6\nits settings are for windows: native " +
			"windows\nit leaves out the machine's boards that it is for: disable F9",
	} {
		m, _ := mp.Machine(name)
		var got []string
		for _, x := range mapping.AbsentFrom(mp, m) {
			titles := make([]string, len(x.Rules))
			for i, r := range x.Rules {
				titles[i] = mapping.Title(r)
			}
			got = append(got, x.Why+": "+strings.Join(titles, ", "))
		}
		assert.Equal(t, want, strings.Join(got, "\n"), name)
	}
}

// Scopes that say the same by other words have the same key.
func TestScopeKey(t *testing.T) {
	_, s := scoped(t, `
on "chart-table" {
  on "office" "linux" {
    disable "F1" {}
  }
}
disable "F2" { on = ["linux", "chart-table", "office"] }
disable "F3" { on = ["linux", "office"] }
on "lab" {
  except = "wheelhouse"
  disable "F4" { except = "chart-table" }
}
disable "F5" {
  except = ["chart-table", "wheelhouse"]
  on     = "lab"
}
`)
	assert.Equal(t, s[0].Key(), s[1].Key())
	assert.NotEqual(t, s[1].Key(), s[2].Key())
	assert.Equal(t, s[3].Key(), s[4].Key())
	assert.Equal(
		t,
		[]string{
			"on chart-table, office or linux", "on lab, not on wheelhouse, not on chart-table",
			"on lab, not on chart-table, wheelhouse", "",
		},
		[]string{s[0].Where(), s[3].Where(), s[4].Where(), mapping.Scope{}.Where()},
	)
	assert.Equal(
		t,
		[]string{
			"chart-table, office or linux", "linux or office, chart-table", "linux or office",
			"lab, not wheelhouse, not chart-table", "lab, not chart-table, not wheelhouse",
		},
		[]string{s[0].String(), s[1].String(), s[2].String(), s[3].String(), s[4].String()},
	)
}
