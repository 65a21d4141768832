package imports_test

import (
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/imports"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/internal/sample"
)

// A mapping is written in the order in which people think of it, names that clash are told
// apart, and what cannot stand in a file as it is, is escaped.
func TestText(t *testing.T) {
	m := sample.Machine(
		mapping.Machine{System: mapping.Linux, Desktop: "gnome", Session: "x11", Layouts: []string{"us"}},
	)
	long := strings.Repeat("tide", 11)
	g := imports.Gathered{
		Sources: []imports.Source{{Machine: m, Bindings: []behaviour.Binding{
			sample.Setting(
				"repeat of KeyA", "never",
			), sample.Setting("repeat of KeyB", "always"), sample.Setting("repeat delay", "250ms"),
			sample.Launch(keys.Meta, "KeyA", behaviour.Launch{App: "org.tides.Gauge.desktop"}),
			sample.Launch(keys.Meta, "KeyB", behaviour.Launch{App: "example.mess.Gauge.desktop"}),
			sample.Launch(keys.Meta, "KeyC", behaviour.Launch{App: "example.harbour.Gauge.desktop"}),
			sample.Launch(keys.Meta, "KeyD", behaviour.Launch{App: "org.tides." + long + ".desktop"}),
			sample.Launch(keys.Meta, "KeyE", behaviour.Launch{Command: []string{"a\tb\r\n\x7f\x1f\"\\${x}%{y}~ü"}}),
			sample.Launch(keys.Meta, "KeyF", behaviour.Launch{Command: []string{"x", "a b"}}),
			sample.Nothing("Insert"), sample.Becomes("CapsLock", "Escape"), sample.Modifier("ScrollLock", keys.Hyper),
			sample.Becomes("F1", "F2"), sample.Becomes("F2", "F1"),
		}}},
		Left: []mechanism.Left{{File: "keys", Line: 3, Text: "a\x7fb\tc\xff\n", Why: "why\x00not"}},
	}
	text, left, err := g.Text()
	require.NoError(t, err)
	assert.Equal(t, g.Left, left)
	loaded(t, text)
	want, err := os.ReadFile("testdata/text.hcl")
	require.NoError(t, err)
	assert.Equal(t, strings.ReplaceAll(string(want), "LONG", long), string(text))
}

// A rule that the language's own reader refuses is left out, and told.
func TestRefusedRulesAreLeft(t *testing.T) {
	m := sample.Machine(mapping.Machine{System: mapping.Linux, Desktop: "gnome", Layouts: []string{"us"}})
	g := imports.Gathered{Sources: []imports.Source{{Machine: m, Bindings: []behaviour.Binding{
		sample.Launch(
			keys.Meta, "KeyA", behaviour.Launch{Command: []string{"a\x00b"}},
		), sample.Launch(keys.Meta, "KeyB", behaviour.Launch{Command: []string{"x"}}),
	}}}}
	text, left, err := g.Text()
	require.NoError(t, err)
	assert.Contains(t, string(text), `keys = { "Meta+b" = { run = "x" } }`)
	require.Len(t, left, 1)
	assert.Contains(t, left[0].Text, `launch "Meta+a"`)
	assert.Equal(t, "an argument cannot hold the character U+0000", left[0].Why)
}

// A rule of one board of two machines is parted where the machines' rules for every board
// differ: of two rules that meet, one scope must be part of the other's.
func TestRulesOfOneBoardAreParted(t *testing.T) {
	board := &mapping.Board{Name: "wheelhouse", IDs: []mapping.BoardID{{Bus: mapping.BuiltIn}}}
	source := func(name string, list ...behaviour.Binding) imports.Source {
		m := sample.Machine(
			mapping.Machine{
				Name:    name,
				System:  mapping.Linux,
				Desktop: "xfce",
				Layouts: []string{"us"},
				Boards:  []string{"wheelhouse"},
			},
		)
		m.Boards = []*mapping.Board{board}
		return imports.Source{Machine: m, Bindings: list}
	}
	own := sample.On("wheelhouse", sample.Becomes("CapsLock", "Tab"))
	g := imports.Gathered{
		Sources: []imports.Source{
			source("office", sample.Becomes("CapsLock", "Escape"), own),
			source("mess", own),
			source("shed", own),
		},
	}
	text, left, err := g.Text()
	require.NoError(t, err)
	assert.Empty(t, left)
	mp := loaded(t, text)
	require.Len(t, mp.Machines, 3)
	for i, want := range []string{"CapsLock acts as Escape; CapsLock on wheelhouse acts as Tab", "CapsLock on wheelhouse acts as Tab", "CapsLock on wheelhouse acts as Tab"} {
		in, diags := intent.Resolve(mp, mp.Machines[i], all{})
		require.Empty(t, diags, "%s", text)
		var got []string
		for _, e := range in.Entries {
			got = append(got, e.Binding.String())
		}
		slices.Sort(got)
		assert.Equal(t, want, strings.Join(got, "; "), "%s", text)
	}
}
