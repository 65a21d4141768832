package live

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"leitstand/core/install"
)

// The scripts beside the journal: what is left for an administrator, and the way back without leitstand.
const (
	administrator        = "administrator.sh"
	restore              = "restore.sh"
	restoreAdministrator = "restore-administrator.sh"
)

// KeepScripts keeps scripts beside the journal that restore without leitstand; where nothing is installed there are
// none.
func (m *Machine) KeepScripts(j *install.Journal) (err error) {
	plan, err := install.Make(m, j.Installed, install.Wanted{Later: m.Root == ""})
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			err = fmt.Errorf("the scripts that restore without leitstand are not as they should be: %w", err)
		}
	}()
	own, everyone := plan.Split()
	err = m.keepScript(restore, "Takes back what leitstand has installed here, without it. What is an administrator's is "+
		"in\n"+restoreAdministrator+".\n", own)
	err = errors.Join(err, m.keepScript(
		restoreAdministrator, "Takes back what leitstand has installed here for all users.\n", everyone,
	))
	if j.Empty() {
		err = errors.Join(err, m.keepScript(administrator, "", nil))
	}
	return err
}

// KeepForAdministrator writes what an administrator has to do for a machine of the mapping, to a new file of the user's
// choice or beside the journal, and returns where that is.
func (m *Machine) KeepForAdministrator(name, machine string, steps []install.Step) (string, error) {
	script := install.Script("What the keyboard mapping of the machine "+machine+" needs an administrator for.\n", steps)
	if name == "" {
		return filepath.Join(m.StateFolder(), administrator), m.Book().put("", administrator, script)
	}
	// An administrator will run this file: create it, never follow a link, and let only this user write it.
	f, err := os.OpenFile(name, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if errors.Is(err, fs.ErrExist) {
		return name, fmt.Errorf("%s is there already, and an administrator is to run what is in it: name a new file", name)
	}
	if err != nil {
		return name, err
	}
	_, err = f.Write(script)
	if err = errors.Join(err, f.Close()); err != nil {
		err = errors.Join(err, os.Remove(name))
	}
	return name, err
}

// keepScript writes a script beside the journal; one without steps is removed.
func (m *Machine) keepScript(name, says string, steps []install.Step) error {
	if len(steps) > 0 {
		return m.Book().put("", name, install.Script(says, steps))
	}
	dir, err := m.Book().open()
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer dir.Close()
	if err := dir.Remove(name); !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}
