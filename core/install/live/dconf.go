package live

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"leitstand/core/change"
	"leitstand/core/install"
)

// dconf is the user's own value of a key: what stands in the system's databases behind the user's is none of it.
func (m *Machine) dconf(key string) (change.Value, error) {
	out, err := m.askDconf(nil, "read", key)
	if text := strings.TrimSuffix(out, "\n"); err == nil && text != "" {
		return change.ParseGVariant(text), nil
	}
	return nil, err
}

// setDconf sets keys, or leaves them without a value of the user's.
func (m *Machine) setDconf(list []install.Entry) error {
	var bus []string
	if m.abandoned(change.Dconf) {
		address, end, err := m.beginBus()
		if err != nil {
			return err
		}
		defer end()
		bus = append(bus, address)
	}
	for _, e := range list {
		words := []string{"reset", e.Key}
		if e.Value != nil {
			words = []string{"write", e.Key, change.GVariant(e.Value)}
		}
		if _, err := m.askDconf(bus, words...); err != nil {
			return err
		}
	}
	return nil
}

// askDconf runs dconf's program with a profile that has the user's own database only. (dconf's documentation of
// profiles: DCONF_PROFILE may be the path of a file.) More is added to its environment.
func (m *Machine) askDconf(more []string, words ...string) (string, error) {
	if m.env("DBUS_SESSION_BUS_ADDRESS") == "" && m.env("XDG_RUNTIME_DIR") == "" {
		return "", errors.New("dconf's settings are kept by a program of the session, and there is none here; run this " +
			"in the desktop")
	}
	profile, err := m.profile()
	if err != nil {
		return "", fmt.Errorf("the profile for dconf cannot be written: %w", err)
	}
	defer profile.Close()
	return m.run(append(slices.Clone(more), "DCONF_PROFILE=/dev/fd/3"), []*os.File{profile}, "dconf", words...)
}

// profile is a file without a name, which names the user's own database, as the profile in use does.
func (m *Machine) profile() (*os.File, error) {
	database := "user-db:user"
	name := m.env("DCONF_PROFILE")
	if name == "" {
		name = "user"
	}
	if !filepath.IsAbs(name) {
		name = filepath.Join("/etc/dconf/profile", name)
	}
	if text, err := os.ReadFile(name); err == nil {
		for line := range strings.Lines(string(text)) {
			line, _, _ = strings.Cut(line, "#")
			if line = strings.TrimSpace(line); line != "" { // the first may be written
				database = line
				break
			}
		}
	}
	return nameless(database + "\n")
}

// DumpDconf is all that the user has set, as dconf's own program spells it.
func (m *Machine) DumpDconf() ([]byte, error) {
	out, err := m.askDconf(nil, "dump", "/")
	return []byte(out), err
}
