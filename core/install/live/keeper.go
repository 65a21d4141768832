package live

import (
	"strings"

	"github.com/godbus/dbus/v5"

	"leitstand/core/change"
	"leitstand/core/install"
)

const keeper = "org.kde.KGlobalAccel"

// ours says whether a shortcut is that of a desktop file of ours, which stands in the keeper's file only.
func ours(key string) bool { return strings.HasPrefix(key, "[leitstand-") }

// sequence is a chord with what is pressed after it, by Qt's numbers.
type sequence struct{ Keys []int32 }

// action names a shortcut for the keeper: its component's and its own name, and what a person calls both.
func action(key string) []string {
	_, group, name := change.SplitKDE(key)
	return []string{group, name, "", ""}
}

// shortcut is the chords that the keeper has for an action; those of its file where it knows none.
func (m *Machine) shortcut(key string) (change.Value, error) {
	if ours(key) {
		return m.filed(change.Keeper, key)
	}
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

// unregister has the keeper forget a shortcut of ours, which it has since a log-in: nobody else gets its chord before.
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
	var told, filed []install.Entry
	for _, e := range list {
		known := false
		if ours(e.Key) && e.Value == nil {
			if err := m.unregister(e.Key); err != nil {
				return err
			}
		}
		if !ours(e.Key) {
			var err error
			if _, known, err = m.keys(e.Key); err != nil {
				return err
			}
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
				if chords, ok := e.Value.(change.Texts); ok && !only {
					for _, c := range chords {
						keys = append(keys, sequence{change.QtNumbers(c)})
					}
				}
				if err := o.Call(keeper+".setForeignShortcutKeys", 0, action(e.Key), keys).Err; err != nil {
					return err
				}
			}
		}
	}
	return m.setFiled(change.Keeper, filed)
}
