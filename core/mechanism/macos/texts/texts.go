// Package texts writes and reads a file of text replacements for macOS: abbreviations that become a text
// where they are typed.
//
// The system keeps them in a database that is synchronised between a person's machines, and has no
// interface for programs; but its panel takes a property list that is dragged into it: an array of
// dictionaries, each with a shortcut and a phrase. The panel's own export, dragged out, has the same
// form. An abbreviation becomes its text when a space or a sign is typed behind it, in programs that use
// Apple's text system, and there only where the menu Edit, Substitutions has Text Replacement on.
//
// Source: Apple, "Replace text and punctuation in documents on Mac", which says how to drag; the form is
// that of what the panel writes. For all users of a managed machine, a profile has them as the preference
// NSUserDictionaryReplacementItems: who has replacements of their own in that database may have those only.
package texts

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"

	"howett.net/plist"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/macos/profile"
	"leitstand/core/reason"
)

// Mechanism is the text replacements of macOS.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "texts", Stage: mechanism.Person, Evidence: mechanism.Documented,
		Basis: "the public manual; the property list read by a parser of its own",
		When:  mechanism.Steps, Takes: "when the file has been dragged into the panel",
	}
}

// FactsForAll describes the mechanism as a profile.
func (t Mechanism) FactsForAll() mechanism.Facts {
	f := t.Facts()
	f.Takes, f.Everyone = "when the profile is installed, and everybody has logged out and in", true
	return f
}

// list is the file for the panel; a profile has the same as a preference.
type list struct{}

var (
	own = profile.Preferences{Folder: "texts", Own: list{}}
	all = profile.Preferences{Folder: "texts", Own: replacements{}}
)

// OnePlace says that a profile leaves nothing to the user's own list.
func (Mechanism) OnePlace() {}

// Take says whether an abbreviation can be had.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	o := own.Take(m, b)
	if o.ForAll {
		o.Why = o.Why.And(reason.MacTextsUncertain.Of()...)
	}
	return o
}

// Write makes the file, or the profile.
func (Mechanism) Write(m *mechanism.Machine, taken []mechanism.Taken) (mechanism.Output, error) {
	if len(taken) > 0 && taken[0].ForAll {
		return all.Write(m, taken)
	}
	return own.Write(m, taken)
}

// Read reads the text replacements of a machine's folder.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	of, err := own.Own.Read(m, fsys)
	if err != nil || of != nil {
		return of, err
	}
	return all.Read(m, fsys)
}

// Serves says whether the machine is a Mac.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.MacOS }

// Take says whether an abbreviation can be had.
func (list) Take(_ *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	switch {
	case b.Level != behaviour.Typing || b.Effect.Kind != behaviour.Types || b.Board != "" || len(b.Apps) > 0:
		return mechanism.Offer{}
	case strings.ContainsFunc(b.Word+b.Effect.Text, func(r rune) bool {
		return r < ' ' && r != '\n' && r != '\t' || r == 0xFFFE || r == 0xFFFF
	}):
		return mechanism.Offer{Why: reason.CommandNotHeld.Of("a property list", "a control character")}
	}
	return mechanism.Offer{Verdict: mechanism.Manual, Why: reason.ByTextReplacement.Of()}
}

// item is a text replacement.
type item struct {
	Phrase   string `plist:"phrase"`
	Shortcut string `plist:"shortcut"`
}

const compiled = "texts/text-replacements.plist"

// Write makes the file, and says what to do with it.
func (list) Write(_ *mechanism.Machine, taken []mechanism.Taken) (mechanism.Output, error) {
	items := make([]item, len(taken))
	words := make([]string, len(taken))
	for i, b := range taken {
		items[i], words[i] = item{b.Effect.Text, b.Word}, "`"+b.Word+"`"
	}
	text, err := plist.MarshalIndent(items, plist.XMLFormat, "  ")
	if err != nil {
		return mechanism.Output{}, fmt.Errorf("texts: %w", err)
	}
	serves := mechanism.Presses(taken)
	return mechanism.Changed([]change.Change{
		change.File{
			About: change.About{
				Serves: serves,
				In:     compiled,
				Says:   "Copy the text replacements.",
				Unsays: "Delete the file.",
			},
			Path: "~/Library/LeitstandTexts/text-replacements.plist", Data: append(text, '\n'),
		},
		change.Hand{About: change.About{
			Serves: serves,
			Says: "Open the panel Settings, Keyboard, **Text Replacements…**, and drag the file into its list; the " +
				"second line shows it in the Finder.",
			Unsays: "In Settings, Keyboard, **Text Replacements…**, take these out: " + strings.Join(words, ", ") + ".",
		}, Lines: []string{
			`open "x-apple.systempreferences:com.apple.Keyboard-Settings.extension"`,
			"open -R ~/Library/LeitstandTexts/text-replacements.plist",
		}},
	}), nil
}

// Read reads the text replacements of a machine's folder.
func (list) Read(_ *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, compiled)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	list, err := read(text)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", compiled, err)
	}
	behaviour.Sort(list)
	return list, nil
}

func read(text []byte) ([]mechanism.Binding, error) {
	var items []struct {
		Phrase   *string `plist:"phrase"`
		Shortcut *string `plist:"shortcut"`
	}
	if _, err := plist.Unmarshal(text, &items); err != nil {
		return nil, err
	}
	var list []mechanism.Binding
	for i, of := range items {
		if of.Phrase == nil || of.Shortcut == nil || *of.Shortcut == "" {
			return nil, fmt.Errorf("item %d lacks its shortcut or its phrase", i+1)
		}
		list = append(list, mechanism.Binding{
			Level: behaviour.Typing, Word: *of.Shortcut, Effect: behaviour.Effect{Kind: behaviour.Types, Text: *of.Phrase},
		})
	}
	return list, nil
}
