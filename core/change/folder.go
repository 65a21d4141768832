package change

import (
	"errors"
	"io/fs"
	"path"
	"slices"
	"strings"
)

// Filed is a file of a machine's folder.
type Filed struct {
	Path string // below the machine's folder, with slashes
	Data []byte
	Goes string // where it belongs on the machine
}

// Folder is the compiled files of changes: what a person puts in place, or loads into a store.
func Folder(changes []Change) []Filed {
	m := NewSimulated()
	var own []Change
	for _, c := range changes {
		if c.Note().Shown {
			continue
		}
		switch c := c.(type) {
		case File:
			own = append(own, c)
			_ = m.WriteFile(c.Path, c.Data) // memory takes everything
		case Block:
			own = append(own, c)
			_ = m.WriteFile(c.Path, []byte(c.First+c.Text))
		case Setting:
			own = append(own, c)
			_ = m.Set(c.Store, c.Key, c.To)
		default: // a line, an item or a word is not a file that is put in place
		}
	}
	list, _ := View(own, m)
	return list
}

// View is what a machine has where changes are made, as the files of a compiled folder: so
// who reads such a folder reads a machine.
func View(changes []Change, s Store) ([]Filed, error) {
	var list []Filed
	keys := map[string][]key{} // those of a store, by the file that holds them
	labels := map[string]string{}
	at := func(in, goes string) *Filed {
		for i := range list {
			if list[i].Path == in {
				return &list[i]
			}
		}
		list = append(list, Filed{Path: in, Goes: goes})
		return &list[len(list)-1]
	}
	for _, c := range changes {
		in := c.Note().In
		switch c := c.(type) {
		case File, Line, Block:
			if data, err := s.ReadFile(place(c)); err == nil {
				at(in, place(c)).Data = data
			} else if !errors.Is(err, fs.ErrNotExist) {
				return nil, err
			}
		case Setting:
			at(in, goes(c.Store, c.Key))
			keys[in] = append(keys[in], key{c.Store, c.Key})
			labels[c.Key] = c.Label
		case Member:
			at(in, goes(c.Store, c.Key))
			keys[in] = append(keys[in], key{c.Store, c.Key})
		default: // what is told, or done by hand, is in no file
		}
	}
	for i := range list {
		of := keys[list[i].Path]
		if of == nil {
			continue
		}
		var err error
		if list[i].Data, err = spell(of, labels, s); err != nil {
			return nil, err
		}
	}
	return slices.DeleteFunc(list, func(f Filed) bool { return f.Data == nil && keys[f.Path] != nil }), nil
}

type key struct{ store, name string }

// spell spells keys of one store in the form of its own; labels are what it calls them.
func spell(keys []key, labels map[string]string, s Store) ([]byte, error) {
	switch keys[0].store {
	case KDE, Keeper:
		return keyGroups(keys, labels, s)
	case Registry:
		return registryFile(keys, labels, s)
	case Defaults:
		return preferences(keys, s)
	}
	var names []string
	for _, k := range keys {
		names = append(names, k.name)
	}
	if keys[0].store == Xfconf {
		return channel(names, s)
	}
	return keyfile(names, s)
}

// goes says where a file of a store's own form belongs.
func goes(store, key string) string {
	name, _, _ := strings.Cut(key, ":")
	switch store {
	case Xfconf:
		return "~/.config/xfce4/xfconf/xfce-perchannel-xml/" + name + ".xml"
	case KDE:
		return "~/.config/" + name
	case Keeper:
		return "~/.config/" + keptIn
	case Defaults:
		return "defaults:" + name
	case Registry:
		return strings.Replace(key, ":", `\`, 1)
	}
	return store + ":/"
}

// keyfile spells keys of dconf as its dumps do, but with their folders whole.
func keyfile(keys []string, s Store) ([]byte, error) {
	slices.SortFunc(keys, byFolder)
	var w strings.Builder
	folder := ""
	for _, key := range slices.Compact(keys) {
		v, err := s.Get(Dconf, key)
		if err != nil {
			return nil, err
		}
		if v == nil {
			continue
		}
		dir, name := path.Split(key)
		if dir != folder {
			if folder != "" {
				w.WriteByte('\n')
			}
			folder = dir
			w.WriteString("[" + strings.Trim(dir, "/") + "]\n")
		}
		w.WriteString(name + "=" + GVariant(v) + "\n")
	}
	return []byte(w.String()), nil
}

func byFolder(a, b string) int {
	if c := strings.Compare(path.Dir(a), path.Dir(b)); c != 0 {
		return c
	}
	return strings.Compare(a, b)
}
