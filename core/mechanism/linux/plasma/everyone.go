package plasma

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// everyone is a folder of settings for all users beside /etc/xdg, whose files belong to
// packages. Its groups are marked as immutable, so that they count whatever a user's own
// file says. (KDE's documentation of KConfig.)
const (
	everyone  = "/etc/leitstand/xdg"
	immutable = "][$i"
)

// takeForAll says how well a binding lands in settings for everyone: what programs read of
// KConfig by themselves. kglobalaccel reads a user's own file only.
func takeForAll(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	_, shared := standardOf(b.Effect.Action)
	switch {
	case !b.Everyone:
		return mechanism.Offer{}
	case !m.Admin:
		return mechanism.Offer{Why: reason.NoAdministrator.Of("a setting for everyone")}
	case b.Level == behaviour.Setting,
		b.Effect.Kind == behaviour.Acts && shared,
		b.Level == behaviour.Position && b.Chord.Key.Section() == keys.Mouse:
		return half{}.Take(m, b)
	}
	return mechanism.Offer{}
}

// forAll makes of settings of one user files for everyone, and puts their folder onto the list
// where Plasma looks.
func forAll(own []change.Change) []change.Change {
	about := change.About{Everyone: true, Unsays: "Delete what was put in place; it counts from the next log-in.",
		Says: "As an administrator, put the settings for everyone in place, and the folder onto the list where " +
			"Plasma looks. Users have them when they log in, and cannot change them."}
	var list []change.Change
	for _, f := range change.Folder(own) {
		name := path.Base(f.Path)
		of := about
		of.In = "plasma/everyone/" + name
		for _, c := range own {
			if c.Note().In == f.Path {
				of.Serves = append(of.Serves, c.Note().Serves...)
			}
		}
		list = append(list, change.File{About: of, Path: everyone + "/" + name, Data: locked(f.Data)})
		about.Serves = append(about.Serves, of.Serves...)
	}
	about.In = "plasma/everyone/leitstand.sh"
	return append(list, change.PlasmaFolder(about))
}

// locked marks the groups of a file.
func locked(text []byte) []byte {
	var out []byte
	for i, c := range text {
		if c == ']' && (i+1 == len(text) || text[i+1] == '\n') {
			out = append(out, immutable...)
		}
		out = append(out, c)
	}
	return out
}

// readForAll reads the files for everyone, of which each group must be marked.
func readForAll(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	r := &reader{m: m, fsys: fsys}
	marked := func(key func(group, name, value string) error) func(group, name, value string) error {
		return func(group, name, value string) error {
			plain, ok := strings.CutSuffix(group, immutable)
			if !ok {
				return fmt.Errorf("[%s] is not marked as immutable, so a user may have it otherwise", group)
			}
			return key(plain, name, value)
		}
	}
	err := errors.Join(
		r.groups("plasma/everyone/kcminputrc", marked(r.repeat)),
		r.groups("plasma/everyone/kdeglobals", marked(r.shared)),
	)
	list := r.found.List()
	for i := range list {
		list[i].Everyone = true
	}
	return list, err
}
