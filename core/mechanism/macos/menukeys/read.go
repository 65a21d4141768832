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
func (own) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
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
	said []string            // what each of them says, and whether for all programs
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
	if err := r.others(domain, of.Keys); err != nil {
		return err
	}
	for _, u := range desktop.InMenus(r.m) {
		names := titlesOf(u)
		for text, titled := range gathered(of.Keys, names) {
			b := mechanism.Binding{
				Level:  behaviour.Hotkey,
				Chord:  u.Chord,
				Effect: behaviour.Effect{Kind: behaviour.Nothing},
			}
			if text != "@~^$\uf71a" {
				var ok bool
				if b.Chord, ok = equivalent.Read(r.m, text); !ok {
					return fmt.Errorf("no key of this machine has the key equivalent %q", text)
				}
				r.left(u, domain, of.Keys)
				b.Effect = effectOf(u)
			}
			if titled < len(names) { // a program in another language does not do it
				b.Effect = behaviour.Effect{
					Kind:  behaviour.Other,
					Words: b.Effect.String() + ", in some languages only",
				}
			}
			r.add(b, domain)
		}
	}
	return nil
}

// others reads the items that are none of the known ones.
func (r *reader) others(domain string, all map[string]string) error {
	known := map[string]bool{}
	for _, u := range desktop.InMenus(r.m) {
		for _, title := range titlesOf(u) {
			known[title] = true
		}
	}
	for title, text := range all {
		if known[title] {
			continue
		}
		c, ok := equivalent.Read(r.m, text)
		if !ok {
			return fmt.Errorf("no key of this machine has the key equivalent %q", text)
		}
		r.add(mechanism.Binding{Level: behaviour.Hotkey, Chord: c, Effect: chosen(title)}, domain)
	}
	return nil
}

// chosen is the effect of an item that has a title, or a path of them.
func chosen(title string) behaviour.Effect {
	path, inside := strings.CutPrefix(title, "\x1b")
	if !inside {
		return behaviour.Choosing([]string{title})
	}
	return behaviour.Choosing(strings.Split(path, "\x1b"))
}

// gathered is how many of an item's titles have each key equivalent.
func gathered(all map[string]string, titles []string) map[string]int {
	found := map[string]int{}
	for _, title := range titles {
		if text, ok := all[title]; ok {
			found[text]++
		}
	}
	return found
}

// left notes that an item's own chord does nothing any more, where no other item has it.
func (r *reader) left(u desktop.Use, domain string, all map[string]string) {
	for _, text := range all {
		if c, ok := equivalent.Read(r.m, text); ok && c == u.Chord {
			return
		}
	}
	if u.Chord.Key != keys.None {
		b := mechanism.Binding{
			Level:  behaviour.Hotkey,
			Chord:  u.Chord,
			Effect: behaviour.Effect{Kind: behaviour.Nothing},
		}
		b.Kept = true
		r.add(b, domain)
	}
}

// add adds a binding of a domain, each once: for all programs, and apart from that for some.
func (r *reader) add(b mechanism.Binding, domain string) {
	all := domain == "NSGlobalDomain"
	what := fmt.Sprint(all, " ", b)
	if _, known := r.apps[what]; !known {
		r.apps[what] = nil
		r.list, r.said = append(r.list, b), append(r.said, what)
	}
	if !all && !slices.Contains(r.apps[what], domain) {
		r.apps[what] = append(r.apps[what], domain)
	}
}

// bindings are what was read, with the programs that each is for.
func (r *reader) bindings() []mechanism.Binding {
	for i := range r.list {
		r.list[i].Apps = r.apps[r.said[i]]
	}
	behaviour.Sort(r.list)
	return r.list
}

// titlesOf are the titles of an item in all languages that are known.
func titlesOf(u desktop.Use) []string {
	if list := languages()[u.Key]; list != nil {
		return list
	}
	return []string{strings.TrimPrefix(u.Key, desktop.MenuKeys)}
}

// effectOf is what an item does.
func effectOf(u desktop.Use) behaviour.Effect {
	if _, ours := action.Find(u.Name); ours {
		return behaviour.Effect{Kind: behaviour.Acts, Action: u.Name}
	}
	return behaviour.Effect{Kind: behaviour.Other, Words: u.Words}
}
