package plasma

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// standards is where KDE's programs look for the chords of what they all do: names of the
// group Shortcuts, and the chords that they have when nobody has said otherwise. A program
// reads them when it starts. (KDE's documentation of KStandardShortcut.)
type standard struct {
	action, name string
	chords       []string // as Qt spells them
}

var standardList = []standard{
	{
		"copy",
		"Copy",
		[]string{"Ctrl+C", "Ctrl+Ins"},
	}, {"cut", "Cut", []string{"Ctrl+X", "Shift+Del"}}, {"paste", "Paste", []string{"Ctrl+V", "Shift+Ins"}},
	{
		"undo",
		"Undo",
		[]string{"Ctrl+Z"},
	}, {"redo", "Redo", []string{"Ctrl+Shift+Z"}}, {"select-all", "SelectAll", []string{"Ctrl+A"}},
	{"find", "Find", []string{"Ctrl+F"}}, {"save", "Save", []string{"Ctrl+S"}},
}

// standardOf is what an action is to KDE's programs.
func standardOf(action string) (standard, bool) {
	i := slices.IndexFunc(standardList, func(s standard) bool { return s.action == action })
	if i < 0 {
		return standard{}, false
	}
	return standardList[i], true
}

// takeStandard says how well a chord lands as one of those that KDE's programs share.
func takeStandard(s standard, b mechanism.Binding, names []string) reason.List {
	differs := reason.KDEProgramsRestart.Of()
	for _, o := range standardList {
		if o.name != s.name && !b.Override &&
			slices.ContainsFunc(o.chords, func(c string) bool { return slices.Contains(names, c) }) {
			differs = differs.And(reason.KDEUsedToo.Of(o.action)...)
		}
	}
	return differs
}

// standard notes the chords of a binding among those that KDE's programs share. A chord that
// is taken is no other's any longer.
func (w *writer) standard(s standard, b mechanism.Taken, names []string) {
	for _, o := range standardList {
		taken := b.Override && o.name != s.name &&
			slices.ContainsFunc(o.chords, func(c string) bool { return slices.Contains(names, c) })
		if w.shared[o.name] == nil && (taken || o.name == s.name) {
			w.shared[o.name] = &entry{chords: slices.Clone(o.chords)}
		}
		if taken {
			e := w.shared[o.name]
			e.chords = slices.DeleteFunc(e.chords, func(c string) bool { return slices.Contains(names, c) })
			e.serves = append(e.serves, b.Press())
		}
	}
	e := w.shared[s.name]
	e.chords, e.serves = once(append(e.chords, names...)), append(e.serves, b.Press())
}

// standards are the chords that KDE's programs share.
func (w *writer) standards() (list []change.Change) {
	for _, name := range slices.Sorted(maps.Keys(w.shared)) {
		e := w.shared[name]
		value := strings.Join(e.chords, "; ")
		if value == "" {
			value = "none"
		}
		s := w.setting("kdeglobals", "[Shortcuts]"+name, change.Text(value),
			"Set the chords that KDE's programs share; each has them when it starts again.", once(e.serves)...)
		s.Takes = mechanism.ProgramStart.Takes()
		list = append(list, s)
	}
	return list
}

// shared reads a chord that KDE's programs share.
func (r *reader) shared(group, name, value string) error {
	i := slices.IndexFunc(standardList, func(s standard) bool { return s.name == name })
	if group != "Shortcuts" || i < 0 {
		return fmt.Errorf("[%s] %s is none of the shortcuts that we know", group, name)
	}
	for chord := range strings.SplitSeq(value, "; ") {
		if chord == "none" || chord == "" {
			continue
		}
		stock := slices.Contains(standardList[i].chords, chord)
		list, err := r.chords(chord)
		if err != nil && !stock { // a layout may lack what KDE's programs have anyhow
			return err
		}
		from := behaviour.AnyOf(list)
		if stock {
			from = behaviour.Provenance{Kept: true}
		}
		for _, c := range list {
			r.found.Add(
				mechanism.Binding{
					Level:      behaviour.Hotkey,
					Chord:      c,
					Provenance: from,
					Effect:     behaviour.Effect{Kind: behaviour.Acts, Action: standardList[i].action},
				},
				ambiguous,
			)
		}
	}
	return nil
}

// parts says whether names can stand in a list that semicolons part.
func parts(c keys.Chord, names []string) bool {
	return c.Key != keys.None && !slices.ContainsFunc(names, func(n string) bool { return strings.HasSuffix(n, ";") })
}
