package live

import (
	"strings"
	"time"

	"github.com/godbus/dbus/v5"

	"leitstand/core/change"
	"leitstand/core/install"
)

const keeper = "org.kde.KGlobalAccel"

// starts reports whether a shortcut is that of a desktop file. The keeper knows it once it is registered, which it does
// by itself when a session begins.
func starts(key string) bool {
	_, group, _ := change.SplitKDE(key)
	return strings.HasSuffix(group, ".desktop")
}

// sequence is a chord with what is pressed after it, by Qt's numbers.
type sequence struct{ Keys []int32 }

// action names a shortcut for the keeper: its component's and its own name, and what a person calls both.
func action(key string) []string {
	_, group, name := change.SplitKDE(key)
	return []string{group, name, "", ""}
}

// shortcut is the chords that the keeper has for an action; those of its file where it knows none.
func (m *Machine) shortcut(key string) (change.Value, error) {
	found, known, err := m.keys(key)
	if err != nil {
		return nil, err
	}
	if known {
		return found, nil
	}
	return m.filed(change.Keeper, key)
}

// keys asks the keeper for the chords of an action, which it may not know.
func (m *Machine) keys(key string) (found change.Texts, known bool, err error) {
	o, err := m.object("org.kde.kglobalaccel", "/kglobalaccel")
	if err != nil {
		return nil, false, err
	}
	var list []sequence
	if err := o.Call(keeper+".shortcutKeys", 0, action(key)).Store(&list); err != nil {
		return nil, false, err
	}
	found = change.Texts{}
	for _, s := range list {
		if len(s.Keys) > 0 && s.Keys[0] != 0 {
			found = append(found, change.QtChord(s.Keys))
		}
	}
	if len(found) > 0 {
		return found, true, nil
	}
	known, err = m.knows(o, key)
	return found, known, err
}

// knows says whether the keeper has an action.
func (m *Machine) knows(o dbus.BusObject, key string) (bool, error) {
	_, group, name := change.SplitKDE(key)
	var actions [][]string
	if err := o.Call(keeper+".allActionsForComponent", 0, []string{group, "", "", ""}).Store(&actions); err != nil {
		return false, nil //nolint:nilerr // no such component
	}
	for _, a := range actions {
		if len(a) > 1 && a[1] == name {
			return true, nil
		}
	}
	return false, nil
}

// The keeper's flags for a chord: it is set whether or not a file of the keeper has another. (KGlobalAccel's source.)
const setPresent, noAutoloading = uint32(2), uint32(4)

// indexed is how long the keeper may take to see that the index of desktop files has changed: it looks no more often than
// every 1.5 seconds. (KSycoca's source.)
const indexed = 4 * time.Second

// register has the keeper know the shortcut of a desktop file, and gives it its chords. It returns false where the keeper
// does not find the desktop file, as without the index of a session.
func (m *Machine) register(e install.Entry, patience time.Time) (known bool, err error) {
	o, err := m.object("org.kde.kglobalaccel", "/kglobalaccel")
	if err != nil {
		return false, err
	}
	_, group, name := change.SplitKDE(e.Key)
	id := []string{group, name, group, e.Label}
	for {
		if err := o.Call(keeper+".doRegister", 0, id).Err; err != nil {
			return false, err
		}
		if err := o.Call(keeper+".setShortcutKeys", 0, id, sequences(e.Value), setPresent|noAutoloading).Err; err != nil {
			return false, err
		}
		if known, err = m.knows(o, e.Key); err != nil || known || time.Now().After(patience) {
			return known, err
		}
		time.Sleep(indexed / 20)
	}
}

// sequences are chords as the keeper takes them.
func sequences(v change.Value) []sequence {
	list := []sequence{}
	if chords, ok := v.(change.Texts); ok {
		for _, c := range chords {
			list = append(list, sequence{change.QtNumbers(c)})
		}
	}
	return list
}

// unregister has the keeper forget a shortcut: nobody else gets its chord before.
func (m *Machine) unregister(key string) error {
	o, err := m.object("org.kde.kglobalaccel", "/kglobalaccel")
	if err != nil {
		return err
	}
	if known, err := m.knows(o, key); err != nil || !known {
		return err
	}
	_, group, name := change.SplitKDE(key)
	return o.Call(keeper+".unregister", 0, group, name).Err
}

// setShortcuts gives actions their chords. All give theirs up first, since no two can have one. What the keeper does
// not know stands in its file.
func (m *Machine) setShortcuts(list []install.Entry) error {
	var told, filed, unknown []install.Entry
	for _, e := range list {
		if starts(e.Key) && e.Value == nil {
			if err := m.unregister(e.Key); err != nil {
				return err
			}
		}
		_, known, err := m.keys(e.Key)
		if err != nil {
			return err
		}
		if starts(e.Key) && e.Value != nil && !known {
			unknown = append(unknown, e)
			continue
		}
		if known {
			told = append(told, e)
			if e.Value == nil {
				continue
			}
			if was, err := m.filed(change.Keeper, e.Key); err != nil || was == nil {
				continue
			}
		}
		filed = append(filed, e)
	}
	if len(told) > 0 {
		o, err := m.object("org.kde.kglobalaccel", "/kglobalaccel")
		if err != nil {
			return err
		}
		for _, only := range []bool{true, false} { // to give up, and to take
			for _, e := range told {
				keys := []sequence{}
				if !only {
					keys = sequences(e.Value)
				}
				if err := o.Call(keeper+".setForeignShortcutKeys", 0, action(e.Key), keys).Err; err != nil {
					return err
				}
			}
		}
	}
	patience := time.Now().Add(indexed)
	for _, e := range unknown {
		known, err := m.register(e, patience)
		if err != nil {
			return err
		}
		if !known { // until the next session
			filed = append(filed, e)
		}
	}
	return m.setFiled(change.Keeper, filed)
}
