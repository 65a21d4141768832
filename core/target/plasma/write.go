package plasma

import (
	"encoding/base64"
	"fmt"
	"maps"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/target"
	"leitstand/core/target/command"
)

const (
	shortcuts = "plasma/kglobalshortcutsrc"
	input     = "plasma/kcminputrc"
)

// entry is one key of a group.
type entry struct {
	chords []string
	words  string
}

type writer struct {
	m      *target.Machine
	groups map[string]map[string]*entry
	files  []target.File
	repeat []string
	mouse  [][2]string         // what buttons of a mouse give, by name
	alone  [][2]string         // what modifiers do alone, by name
	shared map[string][]string // the chords of KDE's programs, by name
}

// Apart says that each binding is a value of its own in a store, and stays when others are
// written.
func (Target) Apart() bool { return true }

// Write makes the groups of the settings files, the desktop files, and the steps
// that put them in place.
func (t Target) Write(m *target.Machine, list []target.Binding) (target.Output, error) {
	list = slices.Clone(list)
	behaviour.Sort(list)
	w := &writer{m: m, groups: map[string]map[string]*entry{}}
	meant := map[string][]keys.Chord{}
	for _, b := range list {
		if b.Effect.Kind == behaviour.Acts {
			p, _ := placeOf(m, b.Effect.Action)
			meant[p.group+"/"+p.key] = append(meant[p.group+"/"+p.key], b.Chord)
		}
	}
	var gone []keys.Chord // chords that are taken from whoever has them
	for _, b := range list {
		if (b.Chord.Key != keys.None || desktop.Since(m, six)) && (b.Takes || b.Effect.Kind == behaviour.Nothing) {
			gone = append(gone, b.Chord)
		}
	}
	for _, b := range list {
		w.binding(b)
	}
	for _, u := range desktop.Stock(m) {
		if slices.ContainsFunc(gone, u.Chord.Overlaps) {
			w.entry(u.Key, u.Name, u.Words)
		}
	}
	// What an action has anyhow it keeps, unless somebody takes it.
	for group, entries := range w.groups {
		for key, e := range entries {
			for _, c := range stock(m, group, key) {
				if !slices.ContainsFunc(gone, c.Overlaps) && !slices.ContainsFunc(meant[group+"/"+key], c.Overlaps) {
					names, _ := spell(m, c)
					e.chords = append(e.chords, names...)
				}
			}
		}
	}
	var text strings.Builder
	var set, cleared, told []string
	for i, group := range slices.Sorted(maps.Keys(w.groups)) {
		if i > 0 {
			text.WriteByte('\n')
		}
		fmt.Fprintf(&text, "[%s]\n", group)
		for _, key := range slices.Sorted(maps.Keys(w.groups[group])) {
			e := w.groups[group][key]
			e.chords = once(e.chords)
			chords := strings.Join(e.chords, `\t`)
			if chords == "" {
				chords = "none"
			}
			value := chords + ",none," + strings.ReplaceAll(e.words, ",", `\,`)
			fmt.Fprintf(&text, "%s=%s\n", key, value)
			set = append(set, fmt.Sprintf(target.KDEWriter+` --file kglobalshortcutsrc --group %s --key %s "$(printf %s)"`,
				command.Quote(group), command.Quote(key), command.Quote(strings.ReplaceAll(value, "%", "%%"))))
			if !w.own(group) {
				first, then := tell(group, key, e.chords)
				cleared = append(cleared, first)
				if then != "" {
					told = append(told, then)
				}
			}
		}
	}
	out := target.Output{}
	if len(w.groups) > 0 {
		out.Files = append(out.Files, target.File{Path: shortcuts, Goes: "~/.config/kglobalshortcutsrc", Data: []byte(text.String())})
		out.Files = append(out.Files, w.files...)
		if len(w.files) > 0 {
			out.Steps = append(out.Steps, target.Step{Text: "Copy the desktop files that the shortcuts start.",
				Lines: []string{"mkdir -p ~/.local/share/applications && cp plasma/*.desktop ~/.local/share/applications/"}})
		}
		const not = " (The file `" + shortcuts + "` says the same; do not copy it into place, it would replace all your other shortcuts.)"
		step := target.Step{Text: "Set each shortcut, then log out and in again." + not}
		if len(cleared) > 0 {
			step.Text = "While you are logged in, have Plasma set the shortcuts of its own, which it would write over in the file, and set all in the file; then log out and in again." + not
			step.Lines = slices.Concat([]string{tellKeeper}, cleared, told)
		}
		step.Lines = append(append(step.Lines, target.FindKDEWriter), set...)
		out.Steps = append(out.Steps, step)
	}
	if len(w.groups) > 0 {
		out.Back = append(out.Back, w.shortcutsBack())
	}
	if len(w.shared) > 0 {
		file, step := w.standardFile()
		out.Files, out.Steps = append(out.Files, file), append(out.Steps, step)
	}
	if len(w.alone) > 0 {
		text, lines := "[ModifierOnlyShortcuts]\n", []string{target.FindKDEWriter}
		for _, a := range w.alone {
			text += a[0] + "=" + a[1] + "\n"
			lines = append(lines, target.KDEWriter+" --file kwinrc --group ModifierOnlyShortcuts --key "+a[0]+" "+command.Quote(a[1]))
		}
		out.Files = append(out.Files, target.File{Path: lone, Goes: "~/.config/kwinrc", Data: []byte(text)})
		out.Steps = append(out.Steps, target.Step{Text: "Say what modifiers do when they are pressed alone, and have the window manager look.",
			Lines: append(lines, "dbus-send --session --type=method_call --dest=org.kde.KWin /KWin org.kde.KWin.reconfigure")})
	}
	if len(w.repeat)+len(w.mouse) > 0 {
		var text strings.Builder
		var lines []string
		for i, r := range w.repeat {
			if i == 0 {
				text.WriteString("[Keyboard]\n")
				lines = []string{target.FindKDEWriter}
			}
			name, value, _ := strings.Cut(r, "=")
			text.WriteString(r + "\n")
			lines = append(lines, target.KDEWriter+" --file kcminputrc --group Keyboard --key "+name+" "+value)
		}
		if lines != nil {
			out.Steps = append(out.Steps, target.Step{Text: "Set how fast keys repeat; it counts from the next log-in.", Lines: lines})
		}
		lines = nil
		for i, b := range w.mouse {
			if i == 0 {
				fmt.Fprintf(&text, "%s[%s]\n", map[bool]string{true: "\n"}[text.Len() > 0], buttonGroup)
				lines = []string{target.FindKDEWriter}
			}
			text.WriteString(b[0] + "=" + b[1] + "\n")
			lines = append(lines, target.KDEWriter+" --file kcminputrc --group ButtonRebinds --group Mouse --key "+b[0]+" "+command.Quote(b[1]))
		}
		if lines != nil {
			out.Steps = append(out.Steps, target.Step{Text: "Say what buttons of a mouse give; it counts from the next log-in.", Lines: lines})
		}
		out.Files = append(out.Files, target.File{Path: input, Goes: "~/.config/kcminputrc", Data: []byte(text.String())})
	}
	if t.Everyone {
		return forAll(out), nil
	}
	if lines := forget(out.Steps); lines != nil {
		out.Back = append(out.Back, target.Step{Text: "Have the settings files forget the other settings.", Lines: append([]string{target.FindKDEWriter}, lines...)})
	}
	return out, nil
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

func (w *writer) binding(b target.Binding) {
	switch b.Word {
	case "repeat delay":
		w.repeat = append(w.repeat, fmt.Sprintf("RepeatDelay=%d", b.Effect.Delay()))
		return
	case "repeat rate":
		w.repeat = append(w.repeat, fmt.Sprintf("RepeatRate=%d", b.Effect.Rate()))
		return
	}
	if b.Level == behaviour.Position {
		w.button(b)
		return
	}
	old := b.Chord.Key == keys.None && !desktop.Since(w.m, six)
	if old && b.Effect.Kind != behaviour.Launches {
		call := ""
		if p, ok := actions()[b.Effect.Action]; ok {
			call = invoke(p.group, p.key)
		}
		w.alone = append(w.alone, [2]string{loneNames[b.Chord.Mods], call})
		return
	}
	var names []string
	if !old {
		names, _ = spell(w.m, b.Chord)
	}
	if s, ok := standardOf(b.Effect.Action); ok && b.Effect.Kind == behaviour.Acts {
		w.standard(s, b, names)
		return
	}
	if b.Effect.Kind == behaviour.Acts {
		p, _ := placeOf(w.m, b.Effect.Action)
		e := w.entry(p.group, p.key, p.words)
		e.chords = append(e.chords, names...)
		return
	}
	name := "Leitstand " + b.Chord.String()
	l := b.Effect.Launch
	file := l.App
	if file == "" || l.Dir != "" || l.Confirm {
		file = fmt.Sprintf("leitstand-%d.desktop", len(w.files))
		line, comment := exec(b.Effect), ""
		if strings.Contains(line, "base64") {
			comment = "# " + command.Clear(b.Effect.Launch) + "\n"
		}
		w.files = append(w.files, target.File{Path: "plasma/" + file, Goes: "~/.local/share/applications/" + file,
			Data: []byte("[Desktop Entry]\nType=Application\nName=" + name + "\n" + comment + "Exec=" + line + "\nNoDisplay=true\nStartupNotify=false\n")})
	}
	e := w.entry(file, "_launch", name)
	e.chords = append(e.chords, names...)
	if old {
		w.alone = append(w.alone, [2]string{loneNames[b.Chord.Mods], invoke(file, "_launch")})
	}
}

// exec is the Exec line of a desktop file.
func exec(e behaviour.Effect) string {
	if e.Kind == behaviour.Nothing {
		return "true"
	}
	if e.Launch.Dir == "" && !e.Launch.Confirm {
		words := command.Words(e.Launch)
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
	return `sh -c "echo ` + base64.StdEncoding.EncodeToString([]byte(command.Script(e.Launch))) + ` | base64 -d | sh"`
}
