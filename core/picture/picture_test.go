package picture_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/picture"
	"leitstand/core/station"
	"leitstand/examples"
	"leitstand/internal/sample"
)

func stations(t testing.TB) map[string]*station.Station {
	t.Helper()
	mp, diags, err := mapping.Load(mechanism.Folder{{Path: "m.hcl", Data: examples.TideOffice}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	builds, _, err := compile.All(mp, nil, nil)
	require.NoError(t, err)
	list, err := station.All(mp, builds)
	require.NoError(t, err)
	found := map[string]*station.Station{}
	for _, s := range list {
		found[s.Name()] = s
	}
	return found
}

// noteOn is what a picture says of a key.
func noteOn(b *picture.Board, code string) string {
	k, _ := keys.ByCode(code)
	number := 0
	for _, c := range b.Caps {
		if c.Key == k {
			number = c.Note
		}
	}
	for _, e := range b.Elsewhere {
		if e.Key == k {
			number = e.Note
		}
	}
	for _, n := range b.Notes {
		if n.Number == number {
			return n.Does
		}
	}
	return ""
}

func TestOf(t *testing.T) {
	all := stations(t)
	b, err := picture.Of(all["gauge"], picture.Asked{})
	require.NoError(t, err)
	assert.Equal(t, "iso", b.Shape.Kind)
	assert.Equal(t, "acts as Hyper", noteOn(b, "CapsLock"))
	assert.Equal(t, "does nothing", noteOn(b, "Insert"))
	assert.Equal(t, "holds layer arrows", noteOn(b, "ControlRight"))
	assert.Empty(t, noteOn(b, "KeyA"))
	for _, c := range b.Caps {
		if c.Key.String() == "KeyY" {
			assert.Equal(t, "Z", c.Printed, "as a German cap says")
		}
	}
	b, err = picture.Of(all["gauge"], picture.Asked{Layer: "arrows"})
	require.NoError(t, err)
	assert.Equal(t, "acts as ArrowLeft", noteOn(b, "KeyH"))
	b, err = picture.Of(all["mess"], picture.Asked{Hold: "Hyper"})
	require.NoError(t, err)
	assert.Equal(t, "runs xterm", noteOn(b, "KeyT"))
	assert.Empty(t, noteOn(b, "KeyX"), "it is free")
	b, err = picture.Of(all["mess"], picture.Asked{Hold: "Alt"})
	require.NoError(t, err)
	assert.NotEmpty(t, noteOn(b, "F4"), "the desktop has it by itself")
	for _, asked := range []picture.Asked{{Board: "none"}, {Layer: "none"}, {Hold: "Hypper"}} {
		_, err = picture.Of(all["gauge"], asked)
		assert.Error(t, err, "%v", asked)
	}
}

// randomly has a test look at the machines of random mappings.
func randomly(t *testing.T, times int, look func(t *rapid.T, machines []*station.Station)) {
	t.Helper()
	sample.Anew(t, times)
	rapid.Check(t, func(t *rapid.T) {
		mp := sample.Valid(t).Mapping
		builds, diags, err := compile.All(mp, nil, nil)
		require.NoError(t, err)
		if diags.HasErrors() {
			return
		}
		list, err := station.All(mp, builds)
		require.NoError(t, err)
		look(t, list)
	})
}

// What a picture says of a key is what the station says, of random mappings.
func TestPicturesSayWhatTheStationSays(t *testing.T) {
	randomly(t, 60, func(t *rapid.T, machines []*station.Station) {
		for _, s := range machines {
			boards, err := picture.All(s, picture.Asked{})
			require.NoError(t, err)
			for _, b := range boards {
				requireAsTheStationSays(t, s, b)
			}
		}
	})
}

func requireAsTheStationSays(t require.TestingT, s *station.Station, b *picture.Board) {
	for _, c := range b.Caps {
		answers, err := s.Ask(c.Key.String(), station.Where{Board: b.Name})
		require.NoError(t, err)
		a := answers[0]
		does := a.Effect.Kind != behaviour.Becomes || a.Effect.Key != c.Key
		switch says := noteOn(b, c.Key.String()); {
		case c.Broken:
			require.Empty(t, says, "%s is broken", c.Key)
			require.Empty(t, a.Keys)
		case a.Rule == nil && a.Wanted != "":
			require.Equal(t, says, "not as wanted: "+a.Wanted, "a lost wish is said")
		case says != "":
			require.True(t, strings.HasSuffix(says, a.Does), "%q: %q", says, a.Does)
		default:
			require.True(t, a.Rule == nil && !does, "%s of %s: %v", c.Key, b.Name, a)
		}
	}
}
