package plasma

import (
	"crypto/sha256"
	"encoding/base64"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/command"
)

// entry is a shortcut: its chords, what it is called, and the presses that it serves.
type entry struct {
	chords []string
	words  string
	serves []string
}

type writer struct {
	m      *mechanism.Machine
	groups map[string]map[string]*entry
	files  []change.Change   // desktop files
	alone  []change.Change   // what modifiers do alone
	repeat []change.Change   // how fast keys repeat
	mouse  []change.Change   // what buttons of a mouse give
	shared map[string]*entry // the chords of KDE's programs, by name
}

// Write makes the settings, and the desktop files of what shortcuts start.
func (t half) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	w := &writer{m: m, groups: map[string]map[string]*entry{}, shared: map[string]*entry{}}
	for _, b := range list {
		w.carry(b, b.Plan.(plan))
	}
	w.keepStock(list)
	changes := w.files
	if len(w.files) > 0 {
		const says = "Update Plasma's index of desktop files."
		changes = append(changes, change.NewCall(change.About{Says: says, Unsays: says}, "kde-programs"))
	}
	changes = slices.Concat(changes, w.shortcuts(), w.standards(), w.alone)
	if len(w.alone) > 0 {
		const says = "Have the window manager look at what modifiers do alone."
		changes = append(changes, change.NewCall(change.About{Says: says, Unsays: says}, "kwin-look"))
	}
	changes = slices.Concat(changes, w.repeat, w.mouse)
	if t.everyone {
		changes = forAll(changes)
	}
	return mechanism.Changed(changes), nil
}

// keepStock leaves actions the chords that they have anyhow, and takes from others those that
// somebody wants.
func (w *writer) keepStock(list []mechanism.Taken) {
	meant := map[string][]keys.Chord{}
	var gone []mechanism.Taken // those whose chords are taken from whoever has them
	for _, b := range list {
		if p := b.Plan.(plan).own; p.group != "" {
			meant[p.group+"/"+p.key] = append(meant[p.group+"/"+p.key], b.Chord)
		}
		if (b.Chord.Key != keys.None || desktop.Since(w.m, six)) && (b.Override || b.Effect.Kind == behaviour.Nothing) {
			gone = append(gone, b)
		}
	}
	for _, u := range desktop.Stock(w.m) {
		for _, b := range gone {
			if u.Chord.Overlaps(b.Chord) {
				e := w.entry(u.Key, u.Name, u.Words)
				e.serves = append(e.serves, b.Press())
			}
		}
	}
	for group, entries := range w.groups {
		for key, e := range entries {
			for _, c := range stock(w.m, group, key) {
				taken := slices.ContainsFunc(gone, func(b mechanism.Taken) bool { return c.Overlaps(b.Chord) })
				if !taken && !slices.ContainsFunc(meant[group+"/"+key], c.Overlaps) {
					names, _ := spell(w.m, c)
					e.chords = append(e.chords, names...)
				}
			}
		}
	}
}

const unsays = "Have the settings as they were before."

// shortcuts are those that the keeper has, and those of desktop files.
func (w *writer) shortcuts() (list []change.Change) {
	for _, group := range slices.Sorted(maps.Keys(w.groups)) {
		for _, key := range slices.Sorted(maps.Keys(w.groups[group])) {
			e := w.groups[group][key]
			var had change.Texts
			for _, c := range stock(w.m, group, key) {
				names, _ := spell(w.m, c)
				had = append(had, names...)
			}
			list = append(list, change.Setting{
				About: change.About{Serves: once(e.serves), In: "plasma/kglobalshortcutsrc",
					Says: "While you are logged in, set the shortcuts. They take effect at once. " +
						"What they had is saved, so that it can be restored.",
					Unsays: "While you are logged in, restore the former shortcuts."},
				Store: change.Keeper, Key: "[" + group + "]" + key, To: append(change.Texts{}, once(e.chords)...),
				Default: had, Label: e.words,
			})
		}
	}
	return list
}

// later is a key of a settings file that counts from the next login.
func (w *writer) later(b mechanism.Taken, to plan, says string) change.Setting {
	s := w.setting(to.file, to.key, to.value, says, b.Press())
	s.Takes = mechanism.LogIn.Takes()
	return s
}

// setting is a key of a settings file, which is called by its groups and its name.
func (w *writer) setting(file, key string, to change.Value, says string, serves ...string) change.Setting {
	return change.Setting{
		About: change.About{Serves: serves, In: "plasma/" + file, Says: says, Unsays: unsays},
		Store: change.KDE,
		Key:   file + ":" + key,
		To:    to,
	}
}

// once is each chord once: two keys may have one name.
func once(chords []string) (list []string) {
	for _, c := range chords {
		if !slices.Contains(list, c) {
			list = append(list, c)
		}
	}
	return list
}

func (w *writer) entry(group, key, words string) *entry {
	if w.groups[group] == nil {
		w.groups[group] = map[string]*entry{}
	}
	if w.groups[group][key] == nil {
		w.groups[group][key] = &entry{words: words}
	}
	return w.groups[group][key]
}

const repeatSays = "Set how fast keys repeat; it counts from the next log-in."

// carry notes what carries a press.
func (w *writer) carry(b mechanism.Taken, to plan) {
	switch {
	case b.Level == behaviour.Setting:
		w.repeat = append(w.repeat, w.later(b, to, repeatSays))
		return
	case b.Level == behaviour.Position:
		w.mouse = append(w.mouse, w.later(b, to, "Say what buttons of a mouse give; it counts from the next log-in."))
		return
	case to.standard != nil && !to.alone:
		w.standard(*to.standard, b, to.names)
		return
	case to.exec == "" && !to.alone:
		e := w.entry(to.own.group, to.own.key, to.own.words)
		e.chords, e.serves = append(e.chords, to.names...), append(e.serves, b.Press())
		return
	}
	if to.alone && b.Effect.Kind != behaviour.Launches {
		w.modifier(to, b)
		return
	}
	name, file := "Leitstand "+b.Chord.String(), to.app
	if file == "" {
		program := desktopFile(b, name, to.exec)
		w.files, file = append(w.files, program), path.Base(program.Path)
	}
	e := w.entry(file, "_launch", name)
	e.chords, e.serves = append(e.chords, to.names...), append(e.serves, b.Press())
	if to.alone {
		to.value = change.Text(invoke(file, "_launch"))
		w.modifier(to, b)
	}
}

// modifier notes what a modifier does alone.
func (w *writer) modifier(to plan, b mechanism.Taken) {
	w.alone = append(
		w.alone, w.setting(to.file, to.key, to.value, "Say what modifiers do when they are pressed alone.", b.Press()),
	)
}

// desktopFile is one that a shortcut starts. Its name depends on its content, because the keeper reads a file only once.
func desktopFile(b mechanism.Taken, name, line string) change.File {
	comment := ""
	if strings.Contains(line, "base64") {
		comment = "# " + command.Clear(b.Effect.Launch()) + "\n"
	}
	data := []byte("[Desktop Entry]\nType=Application\nName=" + name + "\n" + comment + "Exec=" + line +
		"\nNoDisplay=true\nStartupNotify=false\n")
	sum := sha256.Sum256(data)
	file := fmt.Sprintf("leitstand-%x.desktop", sum[:4])
	return change.File{
		About: change.About{
			Serves: []string{b.Press()},
			In:     "plasma/" + file,
			Says:   "Copy the desktop files that the shortcuts start.",
			Unsays: "Delete the desktop files that the shortcuts started.",
		},
		Path: "~/.local/share/applications/" + file,
		Data: data,
	}
}

// exec is the Exec line of a desktop file.
func exec(e behaviour.Effect) string {
	if e.Kind == behaviour.Nothing {
		return "true"
	}
	if e.Launch().Dir == "" && !e.Launch().Confirm {
		words := command.Words(e.Launch())
		plain := true
		quoted := make([]string, len(words))
		for i, w := range words {
			quoted[i] = w
			if w == "" || strings.Contains(w, " ") {
				quoted[i] = `"` + w + `"`
			}
			plain = plain && w != "" && !strings.ContainsFunc(w, func(r rune) bool {
				return r < ' ' || r < 0x80 && strings.ContainsRune("\"'\\`$%<>~|&;*?#()[]{}!^\t\x7f=", r)
			})
		}
		if plain {
			return strings.Join(quoted, " ")
		}
	}
	return `sh -c "echo ` + base64.StdEncoding.EncodeToString([]byte(command.Script(e.Launch()))) + ` | base64 -d | sh"`
}
