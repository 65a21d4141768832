package live

import (
	"errors"
	"fmt"
	"strings"

	"leitstand/core/change"
	"leitstand/core/install"
)

// form is how a store keeps keys in a file.
type form interface {
	get(data []byte, key string) (change.Value, error)
	set(data []byte, e install.Entry) ([]byte, error)
}

// fileOf is the file that has a key of a store.
func fileOf(store, key string) string {
	file, _, _ := strings.Cut(key, ":")
	switch store {
	case change.KDE:
		return "~/.config/" + file
	case change.Keeper:
		return "~/.config/kglobalshortcutsrc"
	case change.Xfconf:
		return "~/.config/xfce4/xfconf/xfce-perchannel-xml/" + file + ".xml"
	case change.Dconf: // the file of a user's database that is kept as text
		return "~/.config/dconf/user.txt"
	}
	return ""
}

func formOf(store string) (form, error) {
	switch store {
	case change.KDE:
		return kdeForm{}, nil
	case change.Keeper:
		return keeperForm{}, nil
	case change.Xfconf:
		return channelForm{}, nil
	case change.Dconf:
		return dconfForm{}, nil
	}
	return nil, fmt.Errorf("the store %s is none of this system", store)
}

// filed is the value of a key in its file.
func (m *Machine) filed(store, key string) (change.Value, error) {
	f, err := formOf(store)
	if err != nil {
		return nil, err
	}
	file, err := m.File(fileOf(store, key))
	if err != nil || file.Data == nil {
		return nil, err
	}
	return f.get(file.Data, key)
}

// setFiled gives keys their values in their files. A file that has nothing any more, and was made for them, goes.
func (m *Machine) setFiled(store string, list []install.Entry) error {
	f, err := formOf(store)
	if err != nil {
		return err
	}
	for len(list) > 0 {
		name := fileOf(store, list[0].Key)
		file, err := m.File(name)
		if err != nil {
			return err
		}
		data := file.Data
		for len(list) > 0 && fileOf(store, list[0].Key) == name {
			if data, err = f.set(data, list[0]); err != nil {
				return fmt.Errorf("%s: %w", name, err)
			}
			list = list[1:]
		}
		if len(data) == 0 {
			data = nil
		}
		next := install.File{Data: data, Mode: file.Mode, UID: file.UID, GID: file.GID, Owned: file.Owned}
		if file.Data == nil {
			next.Mode = 0o600
		}
		if string(data) == string(file.Data) && (data == nil) == (file.Data == nil) {
			continue
		}
		if err := m.Put(name, file, next); err != nil {
			return err
		}
	}
	return nil
}

// kdeForm is a file of KDE's settings.
type kdeForm struct{}

func (kdeForm) get(data []byte, key string) (change.Value, error) {
	_, group, name := change.SplitKDE(key)
	line, ok := groups(data).get(group, name)
	if !ok {
		return nil, nil
	}
	if text := kdeUnescape(line); kdeEscape(text) == line {
		return change.Text(text), nil
	}
	return change.Bytes(line), nil // spelled in a way that is not ours
}

func (kdeForm) set(data []byte, e install.Entry) ([]byte, error) {
	_, group, name := change.SplitKDE(e.Key)
	if e.Value == nil {
		return groups(data).without(group, name), nil
	}
	switch v := change.AsKept(change.KDE, e.Value).(type) {
	case change.Text:
		return groups(data).with(group, name, kdeEscape(string(v))), nil
	case change.Bytes:
		return groups(data).with(group, name, string(v)), nil
	default:
		return nil, errors.New("this is no value of KDE's files")
	}
}

// dconfForm is a user's database that is kept as text. (dconf's documentation of the backend "keyfile".)
type dconfForm struct{}

func (dconfForm) get(data []byte, key string) (change.Value, error) {
	group, name := dconfKey(key)
	line, ok := groups(data).get(group, name)
	if !ok {
		return nil, nil
	}
	return change.ParseGVariant(line), nil
}

func (dconfForm) set(data []byte, e install.Entry) ([]byte, error) {
	group, name := dconfKey(e.Key)
	if e.Value == nil {
		return groups(data).without(group, name), nil
	}
	return groups(data).with(group, name, change.GVariant(e.Value)), nil
}

func dconfKey(key string) (group, name string) {
	at := strings.LastIndexByte(key, '/')
	return strings.TrimPrefix(key[:at], "/"), key[at+1:]
}

// keeperForm is the file of the keeper of Plasma's shortcuts.
type keeperForm struct{}

func (keeperForm) get(data []byte, key string) (change.Value, error) {
	_, group, name := change.SplitKDE(key)
	line, ok := groups(data).get(group, name)
	if !ok && strings.HasSuffix(group, ".desktop") { // where Plasma 6 moves it to
		line, ok = groups(data).get("services]["+group, name)
	}
	if !ok {
		return nil, nil
	}
	chords, _ := cutField(line)
	if chords == "none" || chords == "" {
		return change.Texts{}, nil
	}
	return change.Texts(strings.Split(chords, `\t`)), nil
}

func (keeperForm) set(data []byte, e install.Entry) ([]byte, error) {
	_, group, name := change.SplitKDE(e.Key)
	moved := "services][" + group
	if e.Value == nil {
		rest := groups(groups(data).without(group, name)).without(moved, name)
		if strings.HasPrefix(group, "leitstand-") { // which the keeper has only for us
			rest = groups(rest).without(group, change.FriendlyName)
		}
		return rest, nil
	}
	list, ok := e.Value.(change.Texts)
	if !ok {
		return nil, errors.New("this is no value of a shortcut")
	}
	chords := strings.Join(list, `\t`)
	if chords == "" {
		chords = "none"
	}
	if line, ok := groups(data).get(moved, name); ok && strings.HasSuffix(group, ".desktop") {
		_, rest := cutField(line)
		return groups(data).with(moved, name, chords+rest), nil
	}
	rest := ",none," + strings.ReplaceAll(e.Label, ",", `\,`)
	if line, ok := groups(data).get(group, name); ok {
		_, rest = cutField(line)
	}
	return groups(data).with(group, name, chords+rest), nil
}

// cutField parts the chords of a shortcut's line from what comes behind, which begins with a comma. A comma that is a
// key of a chord stands behind a backslash.
func cutField(line string) (chords, rest string) {
	for i := 0; i < len(line); i++ {
		switch line[i] {
		case '\\':
			i++
		case ',':
			return line[:i], line[i:]
		}
	}
	return line, ""
}
