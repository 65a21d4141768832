package lineeditor

import (
	"fmt"
	"strings"
	"unicode/utf16"

	"leitstand/core/change"
	"leitstand/core/mechanism"
)

const compiled = "lineeditor/leitstand.ps1"

// Write makes the script, and says what runs it.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	text := "# Chords of the command line of PowerShell. The profile runs it: the file that $PROFILE names.\n"
	for _, b := range list {
		p := b.Plan.(plan)
		does := "-Function " + p.function
		if p.function == "" {
			does = "-ScriptBlock { [Microsoft.PowerShell.PSConsoleReadLine]::Insert(" + quote(p.text) + ") }"
		}
		text += fmt.Sprintf("Set-PSReadLineKeyHandler -Chord '%s' %s\n", p.chord, does)
	}
	serves := mechanism.Presses(list)
	const runs = `. "$env:LOCALAPPDATA\Leitstand\lineeditor\leitstand.ps1"`
	return mechanism.Changed([]change.Change{
		change.File{
			About: change.About{
				Serves: serves, In: compiled, Says: "Copy the script for PowerShell's command line.", Unsays: "Delete the script.",
			},
			Path: `%LOCALAPPDATA%\Leitstand\lineeditor\leitstand.ps1`, Data: []byte(text),
		},
		change.Hand{InTurn: true, About: change.About{
			Serves: serves,
			Says: "Put this line into the profile of each PowerShell that you use, the file that `$PROFILE` names in it; begin " +
				"the file if there is none. Windows PowerShell 5.1 runs a profile only after `Set-ExecutionPolicy -Scope " +
				"CurrentUser RemoteSigned`, said in it once.",
			Unsays: "Take the line with `Leitstand\\lineeditor` out of the profile that `$PROFILE` names.",
		}, Lines: []string{runs}},
	}), nil
}

// quote spells a text as an expression in ASCII.
func quote(text string) string {
	var w strings.Builder
	inside := true
	w.WriteByte('\'')
	for _, r := range text {
		if r >= ' ' && r < 0x7F {
			if !inside {
				w.WriteString(" + '")
				inside = true
			}
			if w.WriteRune(r); r == '\'' {
				w.WriteRune(r)
			}
			continue
		}
		if inside {
			w.WriteByte('\'')
			inside = false
		}
		for _, unit := range utf16.AppendRune(nil, r) {
			fmt.Fprintf(&w, " + [char]0x%04X", unit)
		}
	}
	if inside {
		w.WriteByte('\'')
	}
	return w.String()
}
