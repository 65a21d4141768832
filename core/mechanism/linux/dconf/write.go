package dconf

import (
	"cmp"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"

	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/mechanism"
)

// Write makes the keyfile, and the steps that merge it into the settings.
func (t half) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	w := &writer{
		half:    t,
		m:       m,
		family:  families()[t.Desktop],
		values:  map[string]change.Value{},
		serves:  map[string][]string{},
		chords:  map[string][]string{},
		cleared: map[string][]string{},
		stock:   map[string]change.Texts{},
	}
	for _, b := range list {
		w.carry(b, b.Plan.(plan))
	}
	w.actions()
	if w.everyone && w.list != "" && w.count > 0 {
		w.values[w.list] = w.listing()
	}
	if w.everyone {
		return mechanism.Changed(w.forAll()), nil
	}
	return mechanism.Changed(w.changes()), nil
}

// changes are the keys, and the items of the list that names the shortcuts in use.
func (w *writer) changes() []change.Change {
	var list []change.Change
	for _, key := range slices.SortedFunc(maps.Keys(w.values), byFolder) {
		var merged change.Merging
		var stock change.Value
		if own, ok := w.stock[key]; ok { // beside which a user may have chords of their own
			merged, stock = change.Chords, own
		}
		list = append(list, change.Setting{Merged: merged, Default: stock, About: change.About{
			Serves: w.serves[key], In: w.path(),
			Says: "Merge the settings into those of the running desktop; they take effect at once. All that the " +
				"file does not name stays as it is, and what its keys had is saved for the way back.",
			Unsays: "Have each key as it was.",
		}, Store: change.Dconf, Key: key, To: w.values[key]})
	}
	if w.list == "" {
		return list
	}
	for i, name := range w.listing() {
		list = append(list, change.Member{About: change.About{
			Serves: w.serves[w.folder(i)+"binding"], In: w.path(),
			Says:   "Add the new shortcuts to the list of those in use; what stands in it already is kept.",
			Unsays: "Take them out of the list of those in use.",
		}, Store: change.Dconf, Key: w.list, Item: name})
	}
	return list
}

// forAll are the files of the system's database: the keys, and their locks.
func (w *writer) forAll() []change.Change {
	var text strings.Builder
	var serves []string
	section := ""
	for _, key := range slices.SortedFunc(maps.Keys(w.values), byFolder) {
		at := strings.LastIndexByte(key, '/')
		if s := key[1:at]; s != section {
			if section != "" {
				text.WriteByte('\n')
			}
			section = s
			fmt.Fprintf(&text, "[%s]\n", section)
		}
		fmt.Fprintf(&text, "%s=%s\n", key[at+1:], change.GVariant(w.values[key]))
		for _, press := range w.serves[key] {
			if !slices.Contains(serves, press) {
				serves = append(serves, press)
			}
		}
	}
	// The list of shortcuts stays open, or users could have none of their own.
	locked := slices.DeleteFunc(slices.Sorted(maps.Keys(w.values)), func(key string) bool { return key == w.list })
	values := change.About{Serves: serves, In: w.path(), Everyone: true,
		Says: "As an administrator, put the settings for everyone and their locks in place and compile the " +
			"system's database. Users have them when they log in, and cannot change them.",
		Unsays: "Delete both files and compile the database again."}
	locks := values
	locks.In = lockFile
	return append([]change.Change{
		change.File{About: values, Path: "/etc/dconf/db/local.d/90-leitstand", Data: []byte(text.String())},
		change.File{
			About: locks,
			Path:  "/etc/dconf/db/local.d/locks/90-leitstand",
			Data:  []byte(strings.Join(locked, "\n") + "\n"),
		},
	}, change.SystemDconf(values)...)
}

func byFolder(a, b string) int {
	return cmp.Or(cmp.Compare(path.Dir(a), path.Dir(b)), cmp.Compare(a, b))
}

// listing names the shortcuts as the key does that lists them.
func (w *writer) listing() change.Texts {
	var names change.Texts
	for i := range w.count {
		names = append(names, fmt.Sprintf(w.listed, fmt.Sprintf("%s%d", w.prefix(), i)))
	}
	return names
}

// folder is that of a shortcut of the user's own.
func (w *writer) folder(i int) string { return fmt.Sprintf("%s%s%d/", w.own, w.prefix(), i) }

type writer struct {
	half
	family
	m       *mechanism.Machine
	values  map[string]change.Value
	serves  map[string][]string     // the presses that need a key, by key
	chords  map[string][]string     // what an action's key gets, by key
	cleared map[string][]string     // what is taken from a key
	stock   map[string]change.Texts // what an action's key has by itself, of those that are lists
	count   int                     // shortcuts of the user's own
}

// carry notes the values of the keys by which a press is carried.
func (w *writer) carry(b mechanism.Taken, to plan) {
	for key, v := range to.set {
		w.set(b, key, v)
	}
	for _, u := range to.taken {
		if u.Key != to.action {
			w.cleared[u.Key] = append(w.cleared[u.Key], u.Accel)
			w.serve(b, u.Key)
		}
	}
	if to.action != "" {
		w.chords[to.action] = append(w.chords[to.action], to.accels...)
		w.serve(b, to.action)
		return
	}
	for _, accel := range to.accels {
		folder := w.folder(w.count)
		w.count++
		w.set(b, folder+"name", change.Text("Leitstand "+b.Chord.String()))
		w.set(b, folder+w.command, change.Text(to.line))
		if w.Desktop == "cinnamon" {
			w.set(b, folder+"binding", change.Texts{accel})
		} else {
			w.set(b, folder+"binding", change.Text(accel))
		}
	}
}

// set gives a key a value, for a press.
func (w *writer) set(b mechanism.Taken, key string, v change.Value) {
	w.values[key] = v
	w.serve(b, key)
}

// serve notes that a press needs a key.
func (w *writer) serve(b mechanism.Taken, key string) {
	if press := b.Press(); !slices.Contains(w.serves[key], press) {
		w.serves[key] = append(w.serves[key], press)
	}
}

// actions writes the keys of actions: the mapping's chords, and those of the
// desktop's own that nobody takes away.
func (w *writer) actions() {
	stock := desktop.Spelled(w.m)
	for _, key := range slices.Sorted(maps.Keys(union(w.chords, w.cleared))) {
		list := w.chords[key]
		if w.one {
			w.values[key] = change.Text("disabled")
			if len(list) > 0 {
				w.values[key] = change.Text(list[0])
			}
			continue
		}
		for _, accel := range stock[key] {
			again := slices.ContainsFunc(w.chords[key], func(a string) bool {
				ours, _ := desktop.Accelerator(w.m, a)
				own, ok := desktop.Accelerator(w.m, accel)
				return ok && ours.Overlaps(own)
			})
			if !again && !slices.Contains(w.cleared[key], accel) {
				list = append(list, accel)
			}
		}
		w.values[key] = append(change.Texts{}, list...)
		w.stock[key] = append(change.Texts{}, stock[key]...)
	}
}

func union(a, b map[string][]string) map[string][]string {
	all := maps.Clone(a)
	maps.Copy(all, b)
	return all
}
