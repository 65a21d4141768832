package layout_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/keys/library"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/layout"
)

// system makes a library such as a system has for a layout, in which some keys type and some accents give
// something of its own.
func system(t *rapid.T, name string) *library.Library {
	_, files := written(t, lab(name), []mechanism.Binding{types("", "KeyX", "y")})
	at := slices.IndexFunc(files, func(f mechanism.File) bool { return f.Path == "layout/"+folderOf(name)+"/AMD64.dll" })
	of, _, err := library.Open(files[at].Data)
	require.NoError(t, err)
	unit := rapid.SampledFrom([]uint16{'a', 'ß', '€', '[', ' ', 0x3B1, 0x1E9E})
	for i := range of.Rows {
		r := &of.Rows[i]
		if r.VK < '0' || r.VK >= 0x60 && r.VK <= 0x6F || len(r.Cells) < 4 || !rapid.Bool().Draw(t, "another row") {
			continue
		}
		r.Attributes = rapid.SampledFrom([]byte{0, library.CapsLock, library.CapsLock | library.CapsLockAltGr}).Draw(t, "CapsLock")
		for c := range r.Cells[:2] {
			if r.Cells[c].Accent == 0 && rapid.Bool().Draw(t, "another character") {
				r.Cells[c] = library.Cell{Unit: unit.Draw(t, "character")}
			}
		}
	}
	for i := range of.Dead {
		if !of.Dead[i].Again && rapid.Bool().Draw(t, "another result") {
			of.Dead[i].Result = unit.Draw(t, "result")
		}
	}
	return of
}

func folderOf(name string) string {
	return map[string]string{"us(intl)": "us-intl"}[name] + map[bool]string{true: name}[name != "us(intl)"]
}

// with is a machine whose layout is that of a library.
func with(t require.TestingT, name string, of *library.Library) *intent.Machine {
	file, err := of.Build(library.AMD64)
	require.NoError(t, err)
	own, err := keys.LayoutOfLibrary(name, file)
	require.NoError(t, err)
	return intent.NewMachine(&mapping.Mapping{}, &mapping.Machine{
		Name: "lab", System: mapping.Windows, Layouts: []string{name}, LayoutLibrary: true, Admin: true,
		Own: []machine.OwnLayout{{Layout: own, File: file}},
	})
}

// A layout of ours that is made of a library of the system's types what that types in each state and behind each
// accent, but for what the mapping has.
func TestMadeOfSystemLibrary(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		name := rapid.SampledFrom([]string{"de", "us(intl)", "fr", "it"}).Draw(r, "layout")
		of := system(r, name)
		m := with(r, name, of)
		b := types("", "KeyX", "tide")
		o := layout.Mechanism{}.Take(m, b)
		require.Equal(r, "limited: under a layout that is added beside yours", o.Verdict.String()+": "+o.Why.String())
		ours, _ := written(r, m, []mechanism.Binding{b})
		theirs := keys.NewLibraryLayout(of)
		for _, first := range append(keys.All(), keys.None) {
			for _, mods := range []keys.Mods{0, keys.Shift, keys.AltGr, keys.Shift | keys.AltGr} {
				_, x := theirs.Type(keys.TypeState{}, first, mods)
				_, y := ours.Type(keys.TypeState{}, first, mods)
				if first != keys.None && x.Waits == "" || first.String() == "KeyX" {
					continue
				}
				for _, k := range keys.All() {
					for _, caps := range []bool{false, true} {
						x, y := x, y
						x.CapsLock, y.CapsLock = caps, caps
						want, _ := theirs.Type(x, k, mods)
						got, _ := ours.Type(y, k, mods)
						switch {
						case k.String() != "KeyX":
							require.Equal(r, want, got, "%s, %s %s", first, mods, k)
						case mods == 0 && x.Waits == "" && !caps:
							require.Equal(r, "tide", got)
						}
					}
				}
			}
		}
	})
}

// What we have no words for is told, and nothing is made of it.
func TestSystemLibraryRefused(t *testing.T) {
	for what, change := range map[string]func(*library.Library){
		"a modifier of its own": func(l *library.Library) {
			l.Modifiers = append(l.Modifiers, library.Modifier{VK: 0xE1, Bit: 16})
			l.Scancodes[0x56] = 0xE1
		},
		"types several characters at once": func(l *library.Library) {
			l.Rows[3].Cells[0] = library.Cell{Ligature: true}
			l.Ligatures = append(l.Ligatures, library.Ligature{VK: l.Rows[3].VK, Column: 0, Units: []uint16{'a', 'b'}})
		},
		"followed by another one": func(l *library.Library) { l.Dead[0].Again = true },
		"CapsLock is more to it":  func(l *library.Library) { l.Rows[3].Attributes = 2 },
		"types half a character":  func(l *library.Library) { l.Rows[3].Cells[1].Unit = 0xD83D },
		"a key that types nothing elsewhere": func(l *library.Library) {
			l.Rows = append(l.Rows, library.Row{VK: 0x78, Cells: []library.Cell{{Unit: 'x'}}})
		},
		"with AltGr alone":              func(l *library.Library) { l.Rows[3].Attributes = library.CapsLockAltGr },
		"no layout of a known name has": func(l *library.Library) { l.Rows[3].Cells[0] = library.Cell{Accent: 'x'} },
	} {
		of, _, err := library.Open(germanLibrary(t))
		require.NoError(t, err)
		change(of)
		file, err := of.Build(library.AMD64)
		require.NoError(t, err)
		_, err = keys.LayoutOfLibrary("de", file)
		assert.ErrorContains(t, err, what)
	}
	_, err := keys.LayoutOfLibrary("de", []byte("MZ"))
	assert.Error(t, err)
	_, err = keys.LayoutOfLibrary("xx", germanLibrary(t))
	assert.ErrorContains(t, err, "no layout of Windows")
}

func germanLibrary(t *testing.T) []byte {
	t.Helper()
	_, files := written(t, lab("de"), []mechanism.Binding{types("", "KeyX", "y")})
	for _, f := range files {
		if f.Path == "layout/de/AMD64.dll" {
			return f.Data
		}
	}
	t.Fatal("there is no library")
	return nil
}

// Programs show keys by the names that a library has: those of the system's own, or English ones.
func TestNamesKeys(t *testing.T) {
	open := func(m *intent.Machine, text string) *library.Library {
		_, files := written(t, m, []mechanism.Binding{types("", "KeyX", text)})
		at := slices.IndexFunc(files, func(f mechanism.File) bool { return strings.HasSuffix(f.Path, "/AMD64.dll") })
		of, _, err := library.Open(files[at].Data)
		require.NoError(t, err)
		return of
	}
	of := open(lab("de"), "€")
	for code, name := range map[byte]string{
		0x01: "Esc", 0x0E: "Backspace", 0x1D: "Ctrl", 0x2A: "Shift", 0x36: "Right Shift", 0x39: "Space", 0x3A: "Caps Lock",
		0x45: "Pause", 0x47: "Num 7", 0x4E: "Num +", 0x58: "F12",
	} {
		assert.Equal(t, name, of.Names[code])
	}
	for code, name := range map[byte]string{
		0x1C: "Num Enter", 0x37: "Print Screen", 0x45: "Num Lock", 0x49: "Page Up", 0x4B: "Left", 0x5D: "Application",
	} {
		assert.Equal(t, name, of.E0Names[code])
	}
	assert.Empty(t, of.Names[0x10], "a key that types is called by that")
	of.Names, of.E0Names = map[byte]string{0x1D: "STRG"}, map[byte]string{0x53: "ENTF"}
	again := open(with(t, "de", of), "æ")
	assert.Equal(t, of.Names, again.Names)
	assert.Equal(t, of.E0Names, again.E0Names)
}
