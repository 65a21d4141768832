// Package appkeys writes and reads what Explorer starts by the keys of a board that are labelled with a kind of
// program: its home page, mail, media, and two of the user's own.
//
// Each has a key in the registry, HKEY_CURRENT_USER\Software\Microsoft\Windows\CurrentVersion\Explorer\AppKey\N,
// N being the command that the key gives to programs (7, 15, 16, 17 and 18). Its text ShellExecute is the
// program, without arguments, or a file that has one; an empty text has the key start nothing. What the machine
// has for all users stands in the same place of HKEY_LOCAL_MACHINE. The program in front is given the command
// first, and may keep it.
//
// Source: Microsoft, "WM_APPCOMMAND message" and the keyboard's support for application keys in the Windows shell.
package appkeys

import (
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/regfile"
	"leitstand/core/reason"
)

// Mechanism is the keys labelled with programs.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "appkeys", Stage: mechanism.Desktop, Evidence: mechanism.Parsed,
		Basis: "Wine's registry editor imported it and gave back the same values",
		When:  mechanism.LogIn, Takes: "at the next sign-in at the latest",
	}
}

// Serves says whether the machine runs Windows.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.Windows }

const (
	compiled = "appkeys/leitstand.reg"
	root     = `HKEY_CURRENT_USER\Software\Microsoft\Windows\CurrentVersion\Explorer\AppKey\`
	name     = "ShellExecute"
)

// numbers are the commands that keys give, by the keys' codes. (winuser.h: APPCOMMAND_BROWSER_HOME …)
var numbers = map[string]string{
	"BrowserHome": "7", "LaunchMail": "15", "MediaSelect": "16", "LaunchApp1": "17", "LaunchApp2": "18",
}

// Take says whether a key alone is one of these, and what it is to start has no arguments.
func (Mechanism) Take(_ *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	number := numbers[b.Chord.Key.String()]
	if !mechanism.Plain(b) || number == "" || b.Level != behaviour.Hotkey || b.Chord.Mods != 0 {
		return mechanism.Offer{}
	}
	l := b.Effect.Launch()
	switch {
	case b.Effect.Kind == behaviour.Nothing:
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.AppKeyFront.Of(), Plan: plan{number, ""}}
	case b.Effect.Kind != behaviour.Launches:
		return mechanism.Offer{}
	case l.Confirm:
		return mechanism.Offer{Why: reason.AppKeyQuestion.Of()}
	case len(l.Command) != 1 || l.Dir != "" || l.Command[0] == "":
		return mechanism.Offer{Why: reason.AppKeyArguments.Of(b.Chord.Key)}
	case strings.ContainsFunc(l.Command[0], func(r rune) bool { return r < ' ' || strings.ContainsRune(`%"*?<>|`, r) }):
		return mechanism.Offer{Why: reason.AppKeyPath.Of(l.Command[0])}
	}
	return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.AppKeyFront.Of(), Plan: plan{number, l.Command[0]}}
}

// plan is what a command starts, "" for nothing.
type plan struct{ number, program string }

// Write makes the texts.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	var changes []change.Change
	for _, b := range list {
		p := b.Plan.(plan)
		changes = append(changes, change.Setting{
			About: change.About{
				Serves: []string{b.Press()}, In: compiled,
				Says:   "Import what the keys labelled with programs start. What was there is saved for the way back.",
				Unsays: "Have these keys start what they did.",
			},
			Store: change.Registry, Key: root + p.number + ":" + name, To: change.Text(p.program),
		})
	}
	return mechanism.Changed(changes), nil
}

// Read reads the texts of a machine's folder.
func (Mechanism) Read(_ *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	values, err := regfile.Open(fsys, compiled)
	got := read(values)
	if err == nil && len(got.Left) > 0 {
		err = fmt.Errorf("%s: %s: %s", compiled, got.Left[0].Text, got.Left[0].Why)
	}
	return got.Bindings, err
}

// read is what keys start by a registry file.
func read(values []regfile.Value) (got mechanism.Imported) {
	for _, v := range values {
		if len(v.Key) <= len(root) || !strings.EqualFold(v.Key[:len(root)], root) || v.Text == nil ||
			!strings.EqualFold(v.Name, name) {
			continue
		}
		k := keyOf(v.Key[len(root):])
		if k == keys.None {
			got.Leave(v.Line, v.Key+" "+name, "no key has that command")
			continue
		}
		b := mechanism.Binding{
			Level: behaviour.Hotkey, Chord: keys.Chord{Key: k}, Effect: behaviour.Effect{Kind: behaviour.Nothing},
		}
		if *v.Text != "" {
			b.Effect = behaviour.Launching(behaviour.Launch{Command: []string{*v.Text}})
		}
		got.Bindings = append(got.Bindings, b)
	}
	behaviour.Sort(got.Bindings)
	return got
}

// keyOf is the key that gives a command.
func keyOf(number string) keys.Key {
	all := keys.All()
	at := slices.IndexFunc(all, func(k keys.Key) bool { return numbers[k.String()] == number && number != "" })
	if at < 0 {
		return keys.None
	}
	return all[at]
}

// For is a machine with Windows.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.Windows} }

// Knows says whether a registry file has keys labelled with programs in it.
func (Mechanism) Knows(_ string, text []byte) bool {
	values, err := regfile.Parse(text)
	return err == nil && slices.ContainsFunc(values, func(v regfile.Value) bool {
		return len(v.Key) > len(root) && strings.EqualFold(v.Key[:len(root)], root)
	})
}

// Import reads a registry file, as the editor exports it or as people write it.
func (Mechanism) Import(_ *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	values, err := regfile.Parse(text)
	return read(values), err
}
