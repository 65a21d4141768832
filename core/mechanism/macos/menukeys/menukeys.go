// Package menukeys writes and reads the chords that macOS gives to items of programs' menus, by the items'
// titles: for all programs, or for one.
//
// The preferences hold them in a dictionary, NSUserKeyEquivalents, of all programs (NSGlobalDomain) or of
// one by its bundle identifier: from a title, or a path of titles each with an escape character before
// it, to a key equivalent. An item has one: a chord that is moved leaves the item's own. A program reads
// them when it starts, and only one that has such an item under that title does anything: titles are in
// the language of the user, so those of several languages are written side by side.
//
// A menu's chord is looked for after the system's own shortcuts, and before a text field sees the key.
// Nothing is done here without a menu bar of the usual kind, and in sandboxed programs the terminal
// that sets their preferences must have full access to the disk.
//
// Sources: Apple, "Create keyboard shortcuts for apps on Mac"; AppKit's documentation of key
// equivalents; the manual page defaults(1). The titles are those of Apple's own programs; in other
// languages than English they are as far as they are remembered, and a wrong one does nothing.
package menukeys

import (
	_ "embed"
	"io/fs"
	"regexp"
	"slices"
	"strings"
	"sync"
	"unicode"

	"leitstand/core/action"
	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/equivalent"
	"leitstand/core/mechanism/macos/profile"
	"leitstand/core/reason"
)

// Mechanism is the chords of menus.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "menukeys", Stage: mechanism.Desktop, Evidence: mechanism.Documented,
		Basis: "public documentation; the property lists read by parsers of their own, the steps run against stand-ins",
		When:  mechanism.ProgramStart, Takes: "in each program when it is started anew",
	}
}

// FactsForAll describes the mechanism as a profile.
func (t Mechanism) FactsForAll() mechanism.Facts {
	f := t.Facts()
	f.Takes, f.Everyone = "when the profile is installed, and everybody has logged out and in", true
	return f
}

// places are the user's own preferences, and a profile.
var places = profile.Preferences{Folder: "menukeys", Own: own{}, Fits: func(of any) bool {
	return !strings.ContainsFunc(strings.Join(of.(plan).titles, ""), unicode.IsControl)
}}

// own is the preferences of a user.
type own struct{}

// OnePlace says that a profile leaves nothing to the user's own preferences.
func (Mechanism) OnePlace() {}

// Take says how well a binding lands, for everyone in a profile.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	return places.Take(m, b)
}

// Write makes the preferences, or the profile.
func (Mechanism) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	return places.Write(m, list)
}

// Read reads the preferences of a machine's folder, or its profile.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	return places.Read(m, fsys)
}

// Serves says whether the machine is a Mac.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.MacOS }

// Single says that an item has one chord.
func (Mechanism) Single(string) bool { return true }

// Asks says that what ends the session is done after a question: the menu's own.
func (Mechanism) Asks(*mechanism.Machine, string) bool { return true }

// plan is the titles of items, and their key equivalent.
type plan struct {
	titles     []string // as the preferences spell them
	equivalent string
}

// nobody is a key equivalent that no board has: all modifiers and F23.
const nobody = "@~^$\uf71a"

// Take says how well a binding lands in menus.
func (own) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	of, everywhere := b.Apps, b
	everywhere.Apps = nil
	if !mechanism.Plain(everywhere) || b.Level != behaviour.Hotkey {
		return mechanism.Offer{}
	}
	u, does, ok := item(m, b)
	if !ok && b.Effect.Kind == behaviour.Chooses {
		u = desktop.Use{Key: desktop.MenuKeys + entryOf(b.Effect.Item())}
	} else if !ok {
		return mechanism.Offer{}
	}
	for _, app := range of {
		if !bundle().MatchString(app) {
			return mechanism.Offer{Why: reason.MacNoBundle.Of(app)}
		}
	}
	title := shown(u.Key)
	p := plan{titles: titles(u.Key), equivalent: nobody}
	if b.Effect.Kind == behaviour.Nothing {
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.MacMenuFreed.Of(title), Plan: p}
	}
	text, why := equivalent.Spell(m, b.Chord)
	switch {
	case why != nil:
		return mechanism.Offer{Why: why}
	case b.Chord.Mods&^keys.Shift == 0 && b.Chord.Key.Section() != keys.Function || b.Chord.Key.String() == "Escape":
		return mechanism.Offer{Why: reason.MacWantsModifier.Of(b.Chord)}
	}
	p.equivalent = text
	why = reason.MacMenuItem.Of(title)
	if u.But != "" {
		why = why.And(reason.StockBut.Of(u.But)...)
	}
	if u.Chord.Key != keys.None {
		why = why.And(reason.MacMenuMoved.Of(u.Chord)...)
	}
	if equivalent.WithFn(b.Chord) {
		why = why.And(reason.MacFunctionKeys.Of()...)
	}
	return mechanism.Offer{Verdict: mechanism.Limited, Why: why, Plan: p, Does: does}
}

// item is the menu's item that a press is for: that of an action, of a chord that is switched off, or of
// the chord that is given instead; does is what the press does where that is not said.
func item(m *mechanism.Machine, b mechanism.Binding) (u desktop.Use, does *behaviour.Effect, ok bool) {
	all := desktop.InMenus(m)
	find := func(is func(desktop.Use) bool) bool {
		i := slices.IndexFunc(all, is)
		if i >= 0 {
			u = all[i]
		}
		return i >= 0
	}
	switch b.Effect.Kind {
	case behaviour.Acts:
		ok = find(func(u desktop.Use) bool { return u.Name == b.Effect.Action })
	case behaviour.Nothing:
		ok = find(func(u desktop.Use) bool { return u.Chord == b.Chord })
	case behaviour.Chooses: // an item that is known by its title in other languages, too
		if ok = find(func(u desktop.Use) bool { return slices.Contains(titles(u.Key), entryOf(b.Effect.Item())) }); ok {
			does = doing(u)
		}
	case behaviour.Sends:
		if ok = find(func(u desktop.Use) bool { return u.Chord == b.Effect.Chord }); ok {
			does = doing(u)
		}
	default: // programs and texts are for others
	}
	return u, does, ok
}

// doing is what an item does.
func doing(u desktop.Use) *behaviour.Effect {
	if _, ours := action.Find(u.Name); ours {
		return &behaviour.Effect{Kind: behaviour.Acts, Action: u.Name}
	}
	return &behaviour.Effect{Kind: behaviour.Other, Words: u.Words}
}

// entryOf spells the titles of an item as the preferences have them.
func entryOf(item []string) string {
	if len(item) == 1 {
		return item[0]
	}
	return "\x1b" + strings.Join(item, "\x1b")
}

// bundle is the form of a program's identifier.
var bundle = sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(`^[A-Za-z0-9-]+(\.[A-Za-z0-9-]+)+$`) })

//go:embed items.tsv
var itemsText string

// languages are the titles of items as the preferences spell them, in English first and in other
// languages, by where the preferences have that in English.
var languages = sync.OnceValue(func() map[string][]string {
	all := map[string][]string{}
	for line := range strings.Lines(itemsText) {
		var list []string
		for title := range strings.SplitSeq(strings.ReplaceAll(strings.TrimSuffix(line, "\n"), "\t", "|"), "|") {
			if entry := desktop.MenuEntry(title); !slices.Contains(list, entry) {
				list = append(list, entry)
			}
		}
		all[desktop.MenuKeys+list[0]] = list
	}
	return all
})

// titles are what an item is called, in English and in other languages, as the preferences spell them.
func titles(key string) []string {
	if list, ok := languages()[key]; ok {
		return list
	}
	return []string{strings.TrimPrefix(key, desktop.MenuKeys)}
}

// shown is the title of an item as a person reads it.
func shown(key string) string {
	return strings.ReplaceAll(strings.TrimPrefix(strings.TrimPrefix(key, desktop.MenuKeys), "\x1b"), "\x1b", ", ")
}
