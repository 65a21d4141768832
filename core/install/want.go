package install

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"leitstand/core/change"
	"leitstand/core/compile"
	"leitstand/core/machine"
	"leitstand/core/mapping"
)

// Items are the changes of a machine, in their order.
func Items(b *compile.Build) []Item {
	var list []Item
	for _, c := range b.Planned(nil) {
		i := Item{Change: c.Change, By: c.By.Name, Takes: c.By.Takes}
		if later := c.Change.Note().Takes; later != "" {
			i.Takes = later
		}
		for _, r := range c.Rules {
			i.Rules = append(i.Rules, mapping.Title(r))
		}
		list = append(list, i)
	}
	return list
}

// Including finds the user's own configuration that includes ours. It returns no data if the desktop has no such file.
func Including(m Machine, b *compile.Build) (path string, data []byte) {
	for _, c := range b.Changes() {
		line, ok := c.(change.Line)
		if !ok || line.Everyone {
			continue
		}
		if f, err := m.File(line.Path); err == nil && f.Data != nil {
			return line.Path, f.Data
		}
	}
	return "", nil
}

// Changes are those of items, and of what is installed, each place once or more.
func Changes(lists ...[]Item) (all []change.Change) {
	for _, items := range lists {
		for _, i := range items {
			all = append(all, i.Change)
		}
	}
	return all
}

// Mapped are the items that come of a mapping: without what Leitstand has for itself, and without the keys of the
// machine that have to go for them.
func Mapped(items []Item) []Item {
	return slices.DeleteFunc(slices.Clone(items), func(i Item) bool {
		s, ok := i.Change.(change.Setting)
		return i.By == own || ok && s.Sole && s.To == nil
	})
}

// Pick finds the machine of a mapping that is the one at hand: the one that is named; else the one that the host's name
// is for; else the only one of its system and desktop, or for a folder that stands for a machine, of its system. It
// never guesses between two.
func Pick(mp *mapping.Mapping, here *machine.Machine, host, named string, folder bool) (*machine.Machine, error) {
	if len(mp.Machines) == 0 {
		return here, nil
	}
	var by, like []*machine.Machine
	var names []string
	for _, m := range mp.Machines {
		names = append(names, m.Name)
		switch {
		case m.Name == named:
			return m, nil
		case m.Is(host) && m.System == here.System:
			by = append(by, m)
		case m.System == here.System && (m.System != machine.Linux || m.Desktop == here.Desktop || folder):
			like = append(like, m)
		}
	}
	switch {
	case named != "":
		_, err := compile.Pick(mp, here, []string{named})
		return nil, err
	case len(by) == 1:
		return by[0], nil
	case len(by) > 1:
		return nil, fmt.Errorf("%s are both for the host %s; say --machine", both(by), host)
	case len(like) == 1 && len(like[0].Hosts) == 0:
		return like[0], nil
	case len(like) > 1:
		return nil, fmt.Errorf("%s are all like this machine; say --machine, or give the right one hosts = [%q]",
			both(like), host)
	}
	return nil, errors.New("no machine of the mapping is like this one (" + here.Place() + "); it has " +
		strings.Join(names, ", ") + ": say --machine")
}

func both(list []*machine.Machine) string {
	var names []string
	for _, m := range list {
		names = append(names, m.Name)
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1]
}
