package filter

import (
	_ "embed"
	"fmt"
	"strings"

	"leitstand/core/change"
	"leitstand/core/mechanism"
)

const (
	compiled = "filter/leitstand.ps1"
	begins   = "$wanted = @("
	ends     = ")"
)

// script blocks what stands between the lines begins and ends, and lifts it.
//
//go:embed script.ps1
var script string

// Write makes the script.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	text, after, _ := strings.Cut(script, begins+"\n")
	text += begins + "\n"
	for _, b := range list {
		e := b.Plan.(entry)
		spelled := e.id
		if spelled == "" {
			spelled = fmt.Sprintf("%s %d", e.mods, e.code)
		}
		text += fmt.Sprintf("    '%s' # %s\n", spelled, b.Press())
	}
	const run = `powershell -NoProfile -ExecutionPolicy Bypass -File "%ProgramData%\Leitstand\filter\leitstand.ps1"`
	serves := mechanism.Presses(list)
	return mechanism.Changed([]change.Change{
		change.Hand{
			About: change.About{
				Serves: serves, Everyone: true,
				Says: "As an administrator, and where the keyboard filter is not on yet: switch it on, and restart the machine.",
			},
			Lines: []string{
				"dism /online /enable-feature /all /featurename:Client-KeyboardFilter",
				"sc.exe config MsKeyboardFilter start= auto",
			},
		},
		change.File{
			About: change.About{
				Serves: serves, In: compiled, Everyone: true,
				Says: "As an administrator, copy the script that blocks the chords.", Unsays: "As an administrator, delete the script.",
			},
			Path: `%ProgramData%\Leitstand\filter\leitstand.ps1`, Data: []byte(text + after),
		},
		change.Call{
			About: change.About{
				Serves: serves, Everyone: true,
				Says: "As an administrator, run it: the chords are blocked for all users, administrators too. Whatever is blocked, " +
					"the left Meta key, pressed five times, leads to the sign-in screen.",
				Unsays: "As an administrator, lift what the script has blocked.",
			},
			Do: []string{"cmd", "/c", run}, Undo: []string{"cmd", "/c", run + " -Lift"}, InTurn: true,
		},
	}), nil
}
