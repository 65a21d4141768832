// Package live is the machine at hand, as changes are carried out on it: its files, the stores of its desktop, and its
// running programs.
//
// dconf's values are read and written by its own program. Xfce's are asked of its daemon, and the chords of Plasma's
// keeper of the keeper, both on the session's bus (org.xfce.Xfconf; org.kde.KGlobalAccel). KDE's settings are in files,
// of which only the lines of the keys are changed; programs that run read a file again before they write it (KDE's
// documentation of KConfig). Below a folder that stands for a machine, all stores are files, as their programs read
// them when they start, and nobody is told anything.
package live

import (
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"leitstand/core/change"
	"leitstand/core/install"
)

// Machine is the machine at hand, or a folder that stands for one.
type Machine struct {
	// Root is the folder that stands for the machine's root, "" for the root itself.
	Root string
	Home string   // the user's home, on the machine
	Env  []string // of the programs that are run
	// Patience is how long a run waits for another one; zero for a minute.
	Patience time.Duration

	bus  bus
	mark string   // of the files that are written beside others
	lock *os.File // that children hold as well, so that no other run begins while one of them works
}

// Call runs a program, by words or by a line of shell. Below a folder that stands for a machine nobody is told.
func (m *Machine) Call(words []string) error {
	if m.Root != "" {
		return nil
	}
	expanded := slices.Clone(words)
	if words[0] != "sh" {
		for i, w := range expanded {
			if rest, ok := strings.CutPrefix(w, "~/"); ok {
				expanded[i] = filepath.Join(m.Home, rest)
			}
		}
	}
	_, err := m.run(nil, nil, expanded[0], expanded[1:]...)
	if err != nil && !m.inSession() {
		return errors.Join(install.ErrAway, err)
	}
	return err
}

// inSession says whether there is a desktop to be told anything.
func (m *Machine) inSession() bool {
	return slices.ContainsFunc([]string{"DISPLAY", "WAYLAND_DISPLAY", "SWAYSOCK"}, func(v string) bool {
		return m.env(v) != ""
	})
}

// env looks a variable up, the last that is set.
func (m *Machine) env(name string) string {
	for _, v := range slices.Backward(m.Env) {
		if value, ok := strings.CutPrefix(v, name+"="); ok {
			return value
		}
	}
	return ""
}

// run runs a program of the system, with more in its environment and files from number 3 on, and returns what it prints.
func (m *Machine) run(more []string, files []*os.File, program string, arguments ...string) (string, error) {
	cmd := exec.Command(program, arguments...)
	cmd.Env = slices.Concat(m.Env, more)
	var out, errs strings.Builder
	cmd.Stdout, cmd.Stderr, cmd.ExtraFiles = &out, &errs, files
	err := m.runChild(cmd)
	if err != nil {
		line := strings.Join(append([]string{program}, arguments...), " ")
		if program == "sh" { // whose line is longer than what it says
			line = program
		}
		err = fmt.Errorf("%s: %w: %s", line, err, strings.TrimSpace(errs.String()))
	}
	return out.String(), err
}

// lend has a program hold the lock, too.
func (m *Machine) lend(cmd *exec.Cmd) {
	if m.lock != nil {
		cmd.ExtraFiles = append(cmd.ExtraFiles, m.lock)
	}
}

// KeptIn is the file that has a key, "" where a program keeps it.
func (m *Machine) KeptIn(store, key string) string {
	if m.program(store) {
		return ""
	}
	return fileOf(store, key)
}

// program says whether a program keeps a store, and not its files alone.
func (m *Machine) program(store string) bool {
	switch {
	case m.Root != "":
		return false
	case store == change.Dconf:
		return true
	}
	return (store == change.Xfconf || store == change.Keeper) && !m.abandoned(store)
}

// Get is the user's own value of a key.
func (m *Machine) Get(store, key string) (change.Value, error) {
	if store == change.Registry && m.Root == "" {
		return registryValue(key)
	}
	if m.program(store) {
		switch store {
		case change.Dconf:
			return m.dconf(key)
		case change.Xfconf:
			return m.xfconf(key)
		case change.Keeper:
			return m.shortcut(key)
		}
	}
	return m.filed(store, key)
}

// Keys lists the user's own values in a folder of Xfce's store.
func (m *Machine) Keys(store, folder string) (list []install.Entry, err error) {
	if store != change.Xfconf {
		return nil, nil
	}
	names, err := m.properties(folder)
	if err != nil {
		return nil, err
	}
	for _, key := range names {
		v, err := m.Get(store, key)
		if err != nil {
			return nil, err
		}
		if v != nil {
			list = append(list, install.Entry{Key: key, Value: v})
		}
	}
	return list, nil
}

// properties lists the keys in a folder of Xfce's store, including those that only the system sets.
func (m *Machine) properties(folder string) (list []string, err error) {
	if m.program(change.Xfconf) {
		return m.xfconfKeys(folder)
	}
	file, err := m.File(fileOf(change.Xfconf, folder))
	if err != nil || file.Data == nil {
		return nil, err
	}
	names, err := (channelForm{}).names(file.Data, folder)
	for _, name := range names {
		list = append(list, folder+name)
	}
	slices.Sort(list)
	return list, err
}

// Set gives keys of one store their values.
func (m *Machine) Set(store string, list []install.Entry) error {
	if m.program(store) {
		switch store {
		case change.Dconf:
			return m.setDconf(list)
		case change.Xfconf:
			return m.setXfconf(list)
		case change.Keeper:
			return m.setShortcuts(list)
		}
	}
	return m.setFiled(store, list)
}
