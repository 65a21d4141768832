package menukeys

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"howett.net/plist"

	"leitstand/core/action"
	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/equivalent"
)

// Read reads the chords of menus in a machine's folder.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	files, err := fs.ReadDir(fsys, "menukeys")
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	r := reader{m: m, apps: map[string][]string{}}
	for _, f := range files {
		text, err := fs.ReadFile(fsys, "menukeys/"+f.Name())
		if err != nil {
			return nil, err
		}
		if err := r.read(strings.TrimSuffix(f.Name(), path.Ext(f.Name())), text); err != nil {
			return nil, fmt.Errorf("menukeys/%s: %w", f.Name(), err)
		}
	}
	return r.bindings(), nil
}

// reader gathers what domains say.
type reader struct {
	m    *mechanism.Machine
	list []mechanism.Binding
	apps map[string][]string // the programs of a press and its effect, by their words
}

// read reads the preferences of a domain.
func (r *reader) read(domain string, text []byte) error {
	var of struct {
		Keys map[string]string `plist:"NSUserKeyEquivalents"`
	}
	if _, err := plist.Unmarshal(text, &of); err != nil {
		return err
	}
	names := make([]string, 0, len(of.Keys))
	for title := range of.Keys {
		names = append(names, title)
	}
	slices.Sort(names)
	for _, title := range names {
		u, ok := r.item(title)
		if !ok {
			continue // an item that the language has no word for
		}
		b := mechanism.Binding{Level: behaviour.Hotkey, Chord: u.Chord, Effect: behaviour.Effect{Kind: behaviour.Nothing}}
		if text := of.Keys[title]; text != "@~^$\uf71a" {
			if b.Chord, ok = equivalent.Read(r.m, text); !ok {
				return fmt.Errorf("no key of this machine has the key equivalent %q", text)
			}
			r.left(u, domain, of.Keys)
			b.Effect = effectOf(u)
		}
		r.add(b, domain)
	}
	return nil
}

// left notes that an item's own chord does nothing any more, where no other item has it.
func (r *reader) left(u desktop.Use, domain string, all map[string]string) {
	for _, text := range all {
		if c, ok := equivalent.Read(r.m, text); ok && c == u.Chord {
			return
		}
	}
	if u.Chord.Key != keys.None {
		b := mechanism.Binding{Level: behaviour.Hotkey, Chord: u.Chord, Effect: behaviour.Effect{Kind: behaviour.Nothing}}
		b.Kept = true
		r.add(b, domain)
	}
}

// add adds a binding of a domain, each once.
func (r *reader) add(b mechanism.Binding, domain string) {
	what := b.String()
	if _, known := r.apps[what]; !known {
		r.apps[what] = nil
		r.list = append(r.list, b)
	}
	if domain != "NSGlobalDomain" && !slices.Contains(r.apps[what], domain) {
		r.apps[what] = append(r.apps[what], domain)
	}
}

// bindings are what was read, with the programs that each is for.
func (r *reader) bindings() []mechanism.Binding {
	for i := range r.list {
		r.list[i].Apps = r.apps[r.list[i].String()]
	}
	behaviour.Sort(r.list)
	return r.list
}

// item is the item of a title in whichever language.
func (r *reader) item(title string) (desktop.Use, bool) {
	for _, u := range desktop.InMenus(r.m) {
		for line := range strings.Lines("\n" + itemsText) {
			f := strings.Split(strings.TrimSuffix(line, "\n"), "\t")
			if desktop.MenuKeys+desktop.MenuEntry(f[0]) != u.Key {
				continue
			}
			for t := range strings.SplitSeq(strings.Join(f, "|"), "|") {
				if desktop.MenuEntry(t) == title {
					return u, true
				}
			}
		}
	}
	return desktop.Use{}, false
}

// effectOf is what an item does.
func effectOf(u desktop.Use) behaviour.Effect {
	if _, ours := action.Find(u.Name); ours {
		return behaviour.Effect{Kind: behaviour.Acts, Action: u.Name}
	}
	return behaviour.Effect{Kind: behaviour.Other, Words: u.Words}
}
