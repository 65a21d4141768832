package lineeditor_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/lineeditor"
	"leitstand/internal/sample"
)

const path = "lineeditor/leitstand.ps1"

func lab(layout string) *mechanism.Machine {
	return sample.Machine(mapping.Machine{Name: "lab", System: mapping.Windows, Layouts: []string{layout}})
}

// on is a press of strokes, each with modifiers and a key.
func on(effect behaviour.Effect, strokes ...keys.Chord) behaviour.Binding {
	return behaviour.Binding{Level: behaviour.Hotkey, Chord: strokes[0], Then: strokes[1:], Effect: effect}
}

func stroke(mods keys.Mods, key string) keys.Chord {
	return keys.Chord{Mods: mods, Key: sample.Key(key)}
}

func types(text string) behaviour.Effect { return behaviour.Effect{Kind: behaviour.Types, Text: text} }

func sends(mods keys.Mods, key string) behaviour.Effect {
	if mods == 0 {
		return behaviour.Effect{Kind: behaviour.Becomes, Key: sample.Key(key)}
	}
	return behaviour.Effect{Kind: behaviour.Sends, Chord: stroke(mods, key)}
}

func TestTake(t *testing.T) {
	const only = "limited: in the command line of PowerShell only"
	g, p := stroke(keys.Ctrl, "KeyG"), stroke(0, "KeyP")
	for _, c := range []struct {
		binding behaviour.Binding
		want    string
	}{
		{on(types("NHN"), g), only},
		{on(types("NHN"), g, p), only + "; Ctrl+KeyG alone does nothing there then"},
		{on(types("NHN"), g, p, p), "unavailable: "},
		{on(types("NHN"), p), "unavailable: "},
		{on(types("NHN"), stroke(0, "F8")), only},
		{on(types("NHN"), stroke(keys.Ctrl|keys.Shift, "KeyG")), "unavailable: "}, // another character there
		{on(types("NHN"), stroke(keys.Ctrl|keys.Alt, "KeyG")), "unavailable: "},   // AltGr
		{on(types("NHN"), stroke(keys.Meta, "F8")), "unavailable: "},
		{on(types("\x1b[A"), g), "unavailable: "},
		{on(types("git status\n"), g), "unavailable: "}, // which Enter would have run
		{on(sends(keys.Ctrl, "Backspace"), stroke(keys.Alt, "KeyH")), only},
		{on(sends(0, "Home"), stroke(keys.Alt, "KeyH")), only},
		{on(sends(keys.Ctrl, "KeyY"), stroke(keys.Alt, "KeyH")), only}, // Ctrl+z under the German layout
		{on(sends(keys.Ctrl, "F9"), stroke(keys.Alt, "KeyH")), "unavailable: "},
		{sample.Off(keys.Ctrl, "KeyG"), "unavailable: "},
		{on(types("NHN"), keys.Chord{Mods: keys.Ctrl}), "unavailable: "}, // a modifier alone
	} {
		o := lineeditor.Mechanism{}.Take(lab("de"), c.binding)
		assert.Equal(t, c.want, o.Verdict.String()+": "+o.Why.String(), c.binding.String())
	}
}

// What is written is read back; texts hold what would break a script.
func TestReadsWhatItWrites(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		m := lab(rapid.SampledFrom([]string{"us", "de", "fr", "ru"}).Draw(r, "layout"))
		anything := rapid.Custom(func(r *rapid.T) keys.Chord {
			mods := []keys.Mods{0, keys.Ctrl, keys.Alt, keys.Shift, keys.Ctrl | keys.Shift}
			return keys.Chord{
				Mods: rapid.SampledFrom(mods).Draw(r, "mods"), Key: rapid.SampledFrom(keys.All()).Draw(r, "key"),
			}
		})
		press := rapid.Custom(func(r *rapid.T) behaviour.Binding {
			b := on(types(rapid.StringOf(rapid.RuneFrom([]rune("'’‘\"`$({;}) \n\t#@\\€😀x,"))).Draw(r, "text")),
				rapid.SliceOfN(anything, 1, 2).Draw(r, "strokes")...)
			if rapid.Bool().Draw(r, "gives a chord") {
				to := anything.Draw(r, "to")
				b.Effect = sends(to.Mods, to.Key.String())
			}
			return b
		})
		var list []behaviour.Binding
		for _, b := range rapid.SliceOfNDistinct(press, 1, 40, func(b behaviour.Binding) behaviour.Place { return b.Place() }).Draw(r, "presses") {
			if (lineeditor.Mechanism{}).Take(m, b).Verdict == mechanism.Limited {
				list = append(list, b)
			}
		}
		out, err := mechanism.Write(lineeditor.Mechanism{}, m, list)
		require.NoError(r, err)
		if len(list) == 0 {
			return
		}
		data := out.Files()[0].Data
		for _, c := range data {
			require.Less(r, c, byte(0x80), "the system's code page matters: %s", data)
		}
		got, err := lineeditor.Mechanism{}.Read(m, fstest.MapFS{path: {Data: data}})
		require.NoError(r, err)
		require.Empty(r, behaviour.Compare(list, got), "%s", data)
		require.True(r, lineeditor.Mechanism{}.Knows("profile.ps1", data))
	})
}

// A profile as people write it.
func TestImportsProfiles(t *testing.T) {
	const own = "\ufeff" + `Import-Module PSReadLine
Set-PSReadLineOption -EditMode Windows
set-psreadlinekeyhandler -Key Alt+d -Function KillWord # as elsewhere
Set-PSReadLineKeyHandler -Function "BeginningOfLine" -Chord "Alt+a" -BriefDescription 'to the ''left'''
Set-PSReadLineKeyHandler -Chord 'Ctrl+x,Ctrl+s' -ScriptBlock {
    [Microsoft.PowerShell.PSConsoleReadLine]::Insert('git status')
}
Set-PSReadLineKeyHandler -Chord Alt+t -ScriptBlock {[Microsoft.PowerShell.PSConsoleReadLine]::Insert("tide ""gauge"""); }
Set-PSReadLineKeyHandler -Chord Alt+u -ScriptBlock { [Microsoft.PowerShell.PSConsoleReadLine]::Insert("$env:USER") }
Set-PSReadLineKeyHandler -Chord Alt+v -ScriptBlock { [Microsoft.PowerShell.PSConsoleReadLine]::Insert(Get-Date) }
Set-PSReadLineKeyHandler -Chord Tab -Function MenuComplete
Set-PSReadLineKeyHandler -Chord Win+t -Function Undo
Set-PSReadLineKeyHandler -Chord F9
    Set-PSReadLineKeyHandler -Chord F8 -Wrong yes
`
	m := lab("us")
	require.True(t, lineeditor.Mechanism{}.Knows("profile.ps1", []byte(own)))
	got, err := lineeditor.Mechanism{}.Import(m, []byte(own), nil)
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare([]behaviour.Binding{
		on(sends(0, "Home"), stroke(keys.Alt, "KeyA")), on(sends(keys.Ctrl, "Delete"), stroke(keys.Alt, "KeyD")),
		on(types(`tide "gauge"`), stroke(keys.Alt, "KeyT")),
	}, got.Bindings))
	why := map[int]string{}
	for _, l := range got.Left {
		why[l.Line] = l.Why
	}
	assert.Equal(t, map[int]string{
		5: "it does not end on its line", 9: "the block does not just insert a text",
		10: "the block does not just insert a text", 11: "the function is none for which the language has a chord",
		12: "the chord is not of this machine's keys", 13: "it has no chord, or does nothing", 14: "-Wrong is not understood",
	}, why)
	_, err = lineeditor.Mechanism{}.Read(m, fstest.MapFS{path: {Data: []byte(own)}})
	assert.ErrorContains(t, err, path+":5: ")
}

func FuzzImport(f *testing.F) {
	f.Add([]byte("Set-PSReadLineKeyHandler -Chord 'Ctrl+g,p' -ScriptBlock { [Microsoft.PowerShell.PSConsoleReadLine]::" +
		"Insert('S' + [char]0x00FC) } # x\nSet-PSReadLineKeyHandler -Key \"Alt+h\" -Function Undo"))
	f.Fuzz(func(_ *testing.T, data []byte) {
		_, _ = lineeditor.Mechanism{}.Import(lab("us"), data, nil)
		lineeditor.Mechanism{}.Knows("x.ps1", data)
	})
}
