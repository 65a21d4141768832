package dconf

import (
	"cmp"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/target"
	"leitstand/core/target/accelerator"
	"leitstand/core/target/command"
)

// Apart says that each binding is a value of its own in a store, and stays when others are
// written.
func (Target) Apart() bool { return true }

// Write makes the keyfile, and the steps that merge it into the settings.
func (t Target) Write(m *target.Machine, list []target.Binding) (target.Output, error) {
	list = slices.Clone(list)
	behaviour.Sort(list)
	w := &writer{Target: t, m: m, family: families()[t.Desktop], values: map[string]string{}, chords: map[string][]string{}, cleared: map[string][]string{}}
	for _, b := range list {
		if err := w.binding(b); err != nil {
			return target.Output{}, fmt.Errorf("%s: %w", b.Press(), err)
		}
	}
	w.actions()
	if w.Everyone && w.list != "" && w.count > 0 {
		w.values[w.list] = "[" + strings.Join(w.listing(), ", ") + "]"
	}
	var text strings.Builder
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
		fmt.Fprintf(&text, "%s=%s\n", key[at+1:], w.values[key])
	}
	out := target.Output{Files: []target.File{{Path: t.path(), Goes: "dconf:/", Data: []byte(text.String())}}, Steps: w.steps(), Back: w.back()}
	if w.Everyone {
		out.Files[0].Goes = "/etc/dconf/db/local.d/90-leitstand"
		// The list of shortcuts stays open, or users could have none of their own.
		locked := slices.DeleteFunc(slices.Sorted(maps.Keys(w.values)), func(key string) bool { return key == w.list })
		locks := strings.Join(locked, "\n") + "\n"
		out.Files = append(out.Files, target.File{Path: lockFile, Goes: "/etc/dconf/db/local.d/locks/90-leitstand", Data: []byte(locks)})
	}
	return out, nil
}

func byFolder(a, b string) int {
	return cmp.Or(cmp.Compare(path.Dir(a), path.Dir(b)), cmp.Compare(a, b))
}

// listing names the shortcuts as the key does that lists them.
func (w *writer) listing() []string {
	var names []string
	for i := range w.count {
		names = append(names, "'"+fmt.Sprintf(w.listed, fmt.Sprintf("%s%d", w.prefix(), i))+"'")
	}
	return names
}

func (w *writer) steps() []target.Step {
	if w.Everyone {
		return []target.Step{{
			Text: "As an administrator, put the settings for everyone and their locks in place and compile the system's database. Users have them when they log in, and cannot change them.",
			Lines: []string{
				"sudo mkdir -p /etc/dconf/db/local.d/locks /etc/dconf/profile",
				"sudo cp " + w.path() + " /etc/dconf/db/local.d/90-leitstand",
				"sudo cp " + lockFile + " /etc/dconf/db/local.d/locks/90-leitstand",
				"test -e /etc/dconf/profile/user || printf 'user-db:user\\nsystem-db:local\\n' | sudo tee /etc/dconf/profile/user",
				"sudo dconf update",
			},
		}}
	}
	steps := []target.Step{{
		Text:  "Merge the settings into those of the running desktop; they take effect at once. All that the file does not name stays as it is.",
		Lines: []string{"dconf load / < " + w.path()},
	}}
	if w.list == "" || w.count == 0 {
		return steps
	}
	names := w.listing()
	return append(steps, target.Step{
		Text: "Add the new shortcuts to the list of those in use; what stands in it already is kept.",
		Lines: []string{
			w.others(),
			`dconf write $key "[${old:+$old, }` + strings.Join(names, ", ") + `]"`,
		},
	})
}

// back has the keys of the file as they are when nobody has changed them.
func (w *writer) back() []target.Step {
	if w.Everyone {
		return []target.Step{{Text: "Delete both files and compile the database again.",
			Lines: []string{"sudo rm /etc/dconf/db/local.d/90-leitstand /etc/dconf/db/local.d/locks/90-leitstand", "sudo dconf update"}}}
	}
	step := target.Step{Text: "Have each key as it is when nobody has changed it."}
	for _, key := range slices.SortedFunc(maps.Keys(w.values), byFolder) {
		step.Lines = append(step.Lines, "dconf reset "+key)
	}
	if w.list != "" && w.count > 0 {
		step.Lines = append(step.Lines, w.others(), `dconf write $key "[$old]"`)
	}
	return []target.Step{step}
}

// others are the lines of a shell that have in $old what the list of shortcuts has beside
// ours.
func (w *writer) others() string {
	return "key=" + w.list + "\n" +
		`old=$(dconf read $key | sed "s/^@as //; s/'[^']*leitstand[0-9][^']*'//g; s/^\[//; s/\]$//; s/, *\(, *\)*/, /g; s/^[, ]*//; s/[, ]*$//")`
}

type writer struct {
	Target
	family
	m       *target.Machine
	values  map[string]string
	chords  map[string][]string // what an action's key gets, by key
	cleared map[string][]string // what is taken from a key
	count   int                 // shortcuts of the user's own
}

func (w *writer) binding(b target.Binding) error {
	switch b.Word {
	case "repeat delay":
		w.values[w.repeat+"delay"] = w.number(b.Effect.Delay())
		return nil
	case "repeat rate":
		if w.interval {
			w.values[w.repeat+"repeat-interval"] = w.number(w.between(b.Effect.Rate()))
		} else {
			w.values[w.repeat+"rate"] = w.number(b.Effect.Rate())
		}
		return nil
	}
	if lone(b) {
		w.values[overlay] = overlaid(b.Effect)
		return nil
	}
	key := w.family.actions[b.Effect.Action]
	for _, u := range taken(w.m, b) {
		if u.Key != key {
			w.cleared[u.Key] = append(w.cleared[u.Key], u.Accel)
		}
	}
	n := w.Target.names(w.m, b)
	names, _ := accelerator.Names(n.layouts, b.Chord, n.give)
	mods, _ := accelerator.Spell(n.tags, b.Chord.Mods)
	if key != "" && b.Effect.Kind == behaviour.Acts {
		for _, name := range names {
			w.chords[key] = append(w.chords[key], mods+name)
		}
		return nil
	}
	words := command.Words(b.Effect.Launch)
	switch b.Effect.Kind {
	case behaviour.Acts:
		words = w.commands[b.Effect.Action].words
	case behaviour.Nothing:
		words = []string{"true"}
	}
	line, err := quote(command.Line(words))
	if err != nil {
		return err
	}
	for _, name := range names {
		folder := fmt.Sprintf("%s%s%d/", w.own, w.prefix(), w.count)
		w.count++
		w.values[folder+"name"], _ = quote("Leitstand " + b.Chord.String())
		w.values[folder+w.command] = line
		bound, _ := quote(mods + name)
		if w.Desktop == "cinnamon" {
			bound = "[" + bound + "]"
		}
		w.values[folder+"binding"] = bound
	}
	return nil
}

// number spells a whole number: unsigned in the schemas that hold an interval.
func (w *writer) number(n int) string {
	if w.interval {
		return fmt.Sprintf("uint32 %d", n)
	}
	return fmt.Sprint(n)
}

// actions writes the keys of actions: the mapping's chords, and those of the
// desktop's own that nobody takes away.
func (w *writer) actions() {
	stock := desktop.Spelled(w.m)
	for _, key := range slices.Sorted(maps.Keys(union(w.chords, w.cleared))) {
		list := w.chords[key]
		if w.one {
			w.values[key] = "'disabled'"
			if len(list) > 0 {
				w.values[key] = "'" + list[0] + "'"
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
		if len(list) == 0 {
			w.values[key] = "@as []"
			continue
		}
		w.values[key] = "['" + strings.Join(list, "', '") + "']"
	}
}

func union(a, b map[string][]string) map[string][]string {
	all := maps.Clone(a)
	maps.Copy(all, b)
	return all
}

// quote spells a text as GVariant does.
func quote(s string) (string, error) {
	var b strings.Builder
	b.WriteByte('\'')
	for _, r := range s {
		switch {
		case r == '\'' || r == '\\':
			b.WriteByte('\\')
			b.WriteRune(r)
		case r == '\n':
			b.WriteString(`\n`)
		case r == '\t':
			b.WriteString(`\t`)
		case r == 0:
			return "", fmt.Errorf("the settings cannot hold the character U+0000 of the command")
		case r < ' ' || r == 0x7F:
			fmt.Fprintf(&b, `\u%04x`, r)
		default:
			b.WriteRune(r)
		}
	}
	b.WriteByte('\'')
	return b.String(), nil
}
