package live

import (
	"errors"
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
func (m *Machine) KeepScripts(j *install.Journal) error {
	plan, err := install.Make(m, j.Installed, install.Wanted{})
	if err != nil {
		return err
	}
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

// KeepForAdministrator writes what an administrator has to do for a machine of the mapping, to a file of the user's
// choice or beside the journal, and returns where that is.
func (m *Machine) KeepForAdministrator(name, machine string, steps []install.Step) (string, error) {
	if name == "" {
		name = filepath.Join(m.StateFolder(), administrator)
	}
	says := "What the keyboard mapping of the machine " + machine + " needs an administrator for.\n"
	return name, os.WriteFile(name, install.Script(says, steps), 0o600)
}

// keepScript writes a script beside the journal; one without steps is removed.
func (m *Machine) keepScript(name, says string, steps []install.Step) error {
	name = filepath.Join(m.StateFolder(), name)
	if len(steps) > 0 {
		return os.WriteFile(name, install.Script(says, steps), 0o600)
	}
	if err := os.Remove(name); !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}
