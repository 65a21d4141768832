package terminal

import (
	"bytes"
	"encoding/json"
	"strings"

	"leitstand/core/change"
	"leitstand/core/mechanism"
)

const compiled = "terminal/leitstand.json"

// entry is one of the list, as the settings spell it.
type entry struct {
	Command any    `json:"command"`
	Keys    string `json:"keys"`
}

// action is a command with what it is given.
type action struct {
	Action string `json:"action"`
	Input  string `json:"input"`
}

// Write makes the entries, and says where they go.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	var lines, chords []string
	for _, b := range list {
		p := b.Plan.(plan)
		e := entry{Command: p.name, Keys: p.chord}
		if p.name == "" {
			e.Command = action{"sendInput", p.input}
		}
		var line bytes.Buffer
		to := json.NewEncoder(&line)
		to.SetEscapeHTML(false)
		if err := to.Encode(e); err != nil {
			return mechanism.Output{}, err
		}
		lines, chords = append(lines, strings.TrimSpace(line.String())), append(chords, "`"+p.chord+"`")
	}
	serves := mechanism.Presses(list)
	return mechanism.Changed([]change.Change{
		change.File{
			About: change.About{
				Serves: serves, In: compiled,
				Says: "Copy the entries beside the settings of Windows Terminal, where they are at hand.", Unsays: "Delete the file.",
			},
			Path: `%LOCALAPPDATA%\Packages\Microsoft.WindowsTerminal_8wekyb3d8bbwe\LocalState\leitstand.json`,
			Data: []byte("[\n  " + strings.Join(lines, ",\n  ") + "\n]\n"),
		},
		change.Hand{InTurn: true, About: change.About{
			Serves: serves,
			Says: "In Windows Terminal, open the settings (Ctrl+Comma), choose **Open JSON file**, and put these entries " +
				"into the list `\"actions\"`, with a comma between each; what has one of their `keys` there already goes.",
			Unsays: "In the settings of Windows Terminal, **Open JSON file**, take the entries with these keys out of " +
				"`\"actions\"`: " + strings.Join(chords, ", ") + ".",
		}, Lines: lines},
	}), nil
}
