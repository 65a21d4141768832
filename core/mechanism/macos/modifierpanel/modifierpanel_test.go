package modifierpanel_test

import (
	"os"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/macos/modifierpanel"
	"leitstand/internal/sample"
)

const path = "modifierpanel/NSGlobalDomain.plist"

// mac is a Mac with boards of one and of two models, any external one, and its own.
func mac() *intent.Machine {
	m := sample.Mac("de")
	board := func(name string, ids ...machine.BoardID) {
		m.Boards = append(m.Boards, &machine.Board{Name: name, IDs: ids})
	}
	board(
		"chart-table",
		machine.BoardID{Bus: machine.USB, Vendor: 0x1209, Product: 1},
		machine.BoardID{Bus: machine.Bluetooth, Vendor: 0x1209, Product: 2},
	)
	board("wheelhouse", machine.BoardID{Bus: machine.USB, Vendor: 0x1209, Product: 3})
	board("any", machine.BoardID{Bus: machine.AnyExternal})
	board("own", machine.BoardID{Bus: machine.BuiltIn})
	return m
}

func TestReadsWhatItWrites(t *testing.T) {
	m := mac()
	rapid.Check(t, func(r *rapid.T) {
		var list []behaviour.Binding
		for _, b := range sample.Positions(r, func(b behaviour.Binding) bool { return true }) {
			b.Board = rapid.SampledFrom([]string{"chart-table", "wheelhouse", "any", "own", ""}).Draw(r, "board")
			b.Chord.Key = sample.Key(
				rapid.SampledFrom([]string{"CapsLock", "AltLeft", "MetaRight", "KeyA"}).Draw(r, "key"),
			)
			if rapid.Bool().Draw(r, "to a modifier") {
				b.Effect = behaviour.Effect{Kind: behaviour.Becomes, Key: sample.Key("ControlLeft")}
			}
			if (modifierpanel.Mechanism{}).Take(m, b).Verdict == mechanism.Exact {
				require.Contains(r, []string{"chart-table", "wheelhouse"}, b.Board)
				list = append(list, b)
			}
		}
		list = sample.Apart(m, list)
		out, err := mechanism.Write(modifierpanel.Mechanism{}, m, list)
		require.NoError(r, err)
		fsys := fstest.MapFS{}
		for _, f := range out.Files() {
			fsys[f.Path] = &fstest.MapFile{Data: f.Data}
		}
		got, err := modifierpanel.Mechanism{}.Read(m, fsys)
		require.NoError(r, err)
		require.Empty(r, behaviour.Compare(list, got))
	})
}

// What the panel of a real machine may hold: boards of several models, a built-in one, a value that is none.
func TestImport(t *testing.T) {
	text, err := os.ReadFile("testdata/export.plist")
	require.NoError(t, err)
	got, err := modifierpanel.Mechanism{}.Import(sample.Mac("de"), text, nil)
	require.NoError(t, err)
	var said []string
	for _, b := range got.Bindings {
		said = append(said, b.String())
	}
	assert.Equal(t, []string{
		"AltLeft on board-1209-0001 acts as MetaLeft", "CapsLock on board-1209-0001 acts as Escape",
		"CapsLock on board-1209-0004 acts as ControlLeft",
	}, said)
	assert.Len(t, got.Boards, 2)
}

func TestUnknownUsages(t *testing.T) {
	_, err := modifierpanel.Mechanism{}.Read(mac(), fstest.MapFS{path: {Data: []byte(
		`{"com.apple.keyboard.modifiermapping.4617-1-0" = ({HIDKeyboardModifierMappingSrc = "tide";});}`)}})
	assert.ErrorContains(t, err, "no keys have the usages")
}

func FuzzRead(f *testing.F) {
	m := mac()
	out, err := mechanism.Write(modifierpanel.Mechanism{}, m, []behaviour.Binding{{
		Board: "chart-table", Chord: keys.Chord{Key: sample.Key("CapsLock")},
		Effect: behaviour.Effect{Kind: behaviour.Becomes, Key: sample.Key("Escape")},
	}})
	require.NoError(f, err)
	f.Add(out.Files()[0].Data)
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = modifierpanel.Mechanism{}.Read(m, fstest.MapFS{path: {Data: data}})
		_, _ = modifierpanel.Mechanism{}.Import(m, data, nil)
	})
}
