package dconf

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"regexp"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/keyfile"
)

// For is a machine with the desktop.
func (t Mechanism) For() machine.Machine {
	return machine.Machine{System: machine.Linux, Desktop: t.Desktop}
}

// owners are folders by which the settings of a desktop are known. Those of GNOME come
// last, since the others' programs use some of them as well.
var owners = []struct {
	desktop string
	folder  func() *regexp.Regexp
}{
	{
		"mate",
		mechanism.Pattern(
			`(?m)^\[org/mate/(desktop/keybindings|marco/|settings-daemon/plugins/media-keys|desktop/peripherals/keyboard)`,
		),
	},
	{"cinnamon", mechanism.Pattern(`(?m)^\[org/cinnamon/(desktop/keybindings|desktop/peripherals/keyboard)`)},
	{
		"gnome",
		mechanism.Pattern(
			`(?m)^\[org/gnome/(desktop/wm/keybindings|mutter|shell/keybindings|settings-daemon/plugins/media-keys|desktop/peripherals/keyboard)`,
		),
	},
}

// Knows says whether a text is what `dconf dump /` prints of the desktop's settings.
func (t Mechanism) Knows(_ string, text []byte) bool {
	if !bytes.HasPrefix(text, []byte("[")) && !bytes.Contains(text, []byte("\n[")) { // it has no folders
		return false
	}
	for _, o := range owners {
		if o.folder().Match(text) {
			return o.desktop == t.Desktop
		}
	}
	return false
}

// Import reads a dump of a user's settings: the shortcuts that are not what they are when
// nobody has changed them, the user's own, and how fast keys repeat.
func (t Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	r := &reader{desktop: t.Desktop, m: m, stock: desktop.Spelled(m), own: map[string]*shortcut{}}
	lines := map[string]int{} // of the user's own shortcuts
	var off []mechanism.Freed
	for l := range keyfile.Lines(string(text)) {
		if !l.Key {
			continue
		}
		folder, name, value := "/"+l.Group+"/", l.Name, l.Value
		parent, last, _ := cutLast(strings.TrimSuffix(folder, "/"))
		var err error
		switch {
		case customs[parent] == t.Desktop:
			lines[last] = cmp.Or(lines[last], l.Number)
			err = r.foreign(last, name, value)
		case slices.Contains(folders, folder):
			var freed []keys.Chord
			freed, err = r.foreignKey(folder, name, value)
			off = append(off, mechanism.Freed{Line: l.Number, Text: l.Text, Chords: freed})
		case folder+name == overlay,
			slices.Contains([]string{"delay", "repeat-interval", "rate"}, name) &&
				strings.HasSuffix(folder, "/peripherals/keyboard/"):
			err = r.key(folder, name, value)
		case folder == inputSources && (name == "sources" || name == "xkb-options"):
			// The machine has them: Layouts reads them.
		case strings.Contains(folder, "/keyboard/"):
			got.Leave(l.Number, l.Text, "the language has no word for this setting")
		default:
			got.Pass(strings.Trim(folder, "/"))
		}
		if err != nil {
			got.Leave(l.Number, l.Text, err.Error())
		}
	}
	for _, id := range slices.Sorted(maps.Keys(r.own)) {
		s := r.own[id]
		e := started(s.command)
		switch unlisted := r.listed != nil && !slices.ContainsFunc(r.listed, func(l string) bool { return strings.HasSuffix(strings.TrimSuffix(l, "/"), id) }); {
		case s.binding == "" || s.binding == "disabled" || s.command == "":
		case unlisted:
			got.Leave(lines[id], s.binding+" "+s.command, "it is in no list of those in use")
		case e.Kind == behaviour.Other:
			got.Leave(lines[id], s.binding, e.Words)
		default:
			if err := r.bind(s.binding, e, custom); err != nil {
				got.Leave(lines[id], s.binding+" "+s.command, err.Error())
			}
		}
	}
	got.Bindings = r.found.List()
	for _, f := range off {
		got.Free(f.Line, f.Text, f.Chords)
	}
	return got, nil
}

// inputSources is where GNOME keeps the layouts of a user, MATE and Cinnamon elsewhere.
const inputSources = "/org/gnome/desktop/input-sources/"

var inputSource = mechanism.Pattern(`\('xkb', '([^'+]+)(?:\+([^']+))?'\)`)

// Layouts reads the layouts and the options of XKB that a dump of GNOME's settings has.
func (t Mechanism) Layouts(text []byte) (layouts, options []string) {
	said := keyfile.Keys(string(text))
	group := strings.Trim(inputSources, "/")
	for _, m := range inputSource().FindAllStringSubmatch(said[[2]string{group, "sources"}], -1) {
		layouts = append(layouts, keys.JoinLayout(m[1], m[2]))
	}
	if v, err := parse(said[[2]string{group, "xkb-options"}]); err == nil {
		options = v.texts
	}
	return layouts, options
}

// foreign reads a key of a shortcut of the user's own.
func (r *reader) foreign(id, name, value string) error {
	v, err := parse(value)
	if err != nil || len(v.texts) == 0 {
		return err // what is set to nothing is not in use
	}
	if r.desktop == "cinnamon" && name == "binding" {
		v.texts = v.texts[:1] // the first of several; the others are rarely set
	}
	return r.shortcut(id, name, v)
}

// foreignKey reads the key of an action, and finds the chords of the desktop's own that it
// has no longer.
func (r *reader) foreignKey(folder, name, value string) ([]keys.Chord, error) {
	v, err := parse(value)
	if err != nil {
		return nil, err
	}
	if name == "custom-keybindings" || name == "custom-list" {
		r.listed = append([]string{}, v.texts...)
		return nil, nil
	}
	var freed []keys.Chord
	changed := false
	for _, accel := range r.stock[folder+name] {
		if c, ok := desktop.Accelerator(r.m, accel); ok && !slices.Contains(v.texts, accel) {
			freed = append(freed, c)
		}
	}
	for _, accel := range v.texts {
		changed = changed || accel != "" && accel != "disabled" && !slices.Contains(r.stock[folder+name], accel)
	}
	if !changed {
		return freed, nil
	}
	if actionOf(r.desktop, name) == "" {
		return freed, errors.New("the language has no word for this action")
	}
	if want := map[bool]kind{true: kindText, false: kindList}[r.desktop == "mate"]; v.kind != want {
		return nil, fmt.Errorf("%s is of another type than the desktop's", name)
	}
	if r.desktop == "mate" { // where an action has one chord, and loses it by getting another
		freed = nil
	}
	return freed, r.key(folder, name, value)
}
