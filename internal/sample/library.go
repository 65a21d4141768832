package sample

import (
	"testing"

	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/layout"
)

// SystemLibrary is a library such as Windows has for the German layout, in which X types Y.
func SystemLibrary(t testing.TB) []byte {
	t.Helper()
	m := Machine(mapping.Machine{System: mapping.Windows, Layouts: []string{"de"}, LayoutLibrary: true})
	out, err := mechanism.Write(layout.Mechanism{}, m, []mechanism.Binding{{
		Chord:  keys.Chord{Key: Key("KeyX")},
		Effect: behaviour.Effect{Kind: behaviour.Types, Text: "y"},
	}})
	require.NoError(t, err)
	for _, f := range out.Files() {
		if f.Path == "layout/de/AMD64.dll" {
			return f.Data
		}
	}
	t.Fatal("there is no library")
	return nil
}
