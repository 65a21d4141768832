package filter_test

import (
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/filter"
	"leitstand/internal/sample"
)

const path = "filter/leitstand.ps1"

func lab(layout string) *mechanism.Machine {
	return sample.Machine(mapping.Machine{
		Name: "lab", System: mapping.Windows, Layouts: []string{layout}, KeyboardFilter: true,
	})
}

func TestTake(t *testing.T) {
	for _, c := range []struct {
		layout string
		mods   keys.Mods
		key    string
		want   string
	}{
		{"us", keys.Ctrl, "KeyQ", "exact: "},
		{"us", keys.Ctrl | keys.Alt, "KeyQ", "exact: "},
		{"de", keys.Ctrl | keys.Alt, "KeyQ", "limited: AltGr is Ctrl+Alt to Windows, so \"@\" can no longer be typed with AltGr"},
		{"us", keys.Meta, "KeyL", "exact: "},
		{"us", keys.Ctrl | keys.Alt, "Delete", "exact: "},
		{"us", keys.Alt, "F4", "exact: "},
		{"us", keys.Ctrl, "Delete", "unavailable: "},     // its code has a prefix
		{"us", keys.Ctrl, "Numpad1", "unavailable: "},    // whose code is that of End
		{"us", keys.Ctrl, "ShiftLeft", "unavailable: "},  // a modifier
		{"us", keys.Ctrl, "ScrollLock", "unavailable: "}, // with Ctrl, it sends another code
		{"us", 0, "F5", "unavailable: "},
	} {
		o := filter.Mechanism{}.Take(lab(c.layout), sample.Off(c.mods, c.key))
		assert.Equal(t, c.want, o.Verdict.String()+": "+o.Why.String(), "%s %v %s", c.layout, c.mods, c.key)
	}
	m, user := lab("us"), *lab("us").Machine
	user.Admin = false
	m.Machine = &user
	q := sample.Off(keys.Ctrl, "KeyQ")
	assert.Equal(t, "the keyboard filter needs an administrator", filter.Mechanism{}.Take(m, q).Why.String())
	user.KeyboardFilter = false
	assert.Contains(t, filter.Mechanism{}.Take(m, q).Why.String(), "which machine lab does not ask for")
	launch := sample.Launch(keys.Ctrl, "KeyQ", behaviour.Launch{Open: "https://tide.example"})
	assert.Zero(t, filter.Mechanism{}.Take(lab("us"), launch).Verdict)
}

// What is written is read back, also from among other lines of a script; no two chords share an entry.
func TestReadsWhatItWrites(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		m := lab(rapid.SampledFrom([]string{"us", "de", "fr", "us(dvorak)"}).Draw(r, "layout"))
		chord := rapid.Custom(func(r *rapid.T) behaviour.Binding {
			mods := rapid.SliceOf(rapid.SampledFrom([]keys.Mods{keys.Ctrl, keys.Alt, keys.Shift, keys.Meta})).Draw(r, "mods")
			b := sample.Off(0, rapid.SampledFrom(keys.All()).Draw(r, "key").String())
			b.Level = behaviour.Hotkey
			for _, mod := range mods {
				b.Chord.Mods |= mod
			}
			return b
		})
		var list []behaviour.Binding
		for _, b := range rapid.SliceOfNDistinct(chord, 1, 60, func(b behaviour.Binding) behaviour.Place { return b.Place() }).Draw(r, "chords") {
			if (filter.Mechanism{}).Take(m, b).Verdict >= mechanism.Limited {
				list = append(list, b)
			}
		}
		out, err := mechanism.Write(filter.Mechanism{}, m, list)
		require.NoError(r, err)
		if len(list) == 0 {
			return
		}
		data := out.Files()[0].Data
		got, err := filter.Mechanism{}.Read(m, fstest.MapFS{path: {Data: data}})
		require.NoError(r, err)
		require.Empty(r, behaviour.Compare(list, got))
		require.True(r, filter.Mechanism{}.Knows("blocked.ps1", data))
		imported, err := filter.Mechanism{}.Import(m, []byte(strings.ReplaceAll(string(data), "\n", "\r\n")), nil)
		require.NoError(r, err)
		require.Empty(r, behaviour.Compare(list, imported.Bindings))
	})
}

// A list that is not ours is told, not guessed.
func TestReadsNoOther(t *testing.T) {
	for line, why := range map[string]string{
		"    'Ctrl 300'": "it is neither", "    'Ctrl+Hyper 16'": "it is neither", "    'Win+M'": "it is neither",
		"    'Ctrl x'": "it is neither", "    Ctrl 16": "it is no text in quotes", "    'Ctrl 16', 'Alt 16'": "it is no text",
		"    'Ctrl -1'": "it is neither",
	} {
		text := "$wanted = @(\n" + line + "\n)\n"
		_, err := filter.Mechanism{}.Read(lab("us"), fstest.MapFS{path: {Data: []byte(text)}})
		assert.ErrorContains(t, err, path+":2: ")
		assert.ErrorContains(t, err, why)
	}
}

func FuzzImport(f *testing.F) {
	f.Add([]byte("$wanted = @(\n    'Ctrl 16' # Ctrl+KeyQ\n    'Win+L'\n)\nWEKF_Scancode"))
	f.Fuzz(func(_ *testing.T, data []byte) {
		_, _ = filter.Mechanism{}.Import(lab("us"), data, nil)
		filter.Mechanism{}.Knows("x.ps1", data)
	})
}
