package live

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/godbus/dbus/v5"
)

// ErrNoManager is that of a machine on which no service manager runs for the user.
var ErrNoManager = errors.New("no service manager runs for this user")

// variable is what a unit takes as one of its environment.
var variable = regexp.MustCompile(`^[A-Za-z_][A-Za-z0-9_]*=[^\x00-\x1f]*$`)

// property and execution are how the service manager takes a unit. (org.freedesktop.systemd1, StartTransientUnit.)
type property struct {
	Name  string
	Value dbus.Variant
}

type execution struct {
	Path    string
	Words   []string
	Ignored bool // whether its failure is
}

// StartOutside has the user's service manager start a program, as a unit of a name: so it is no part of the session, and
// lives on where a session's end ends all that is. It is asked by the socket of its own, which is where the environment
// says, since a session may have another bus. Without an error the program runs.
func StartOutside(name, folder string, words, env []string) error {
	runtime := ""
	for _, v := range env {
		if dir, ok := strings.CutPrefix(v, "XDG_RUNTIME_DIR="); ok {
			runtime = dir
		}
	}
	socket := filepath.Join(runtime, "systemd/private")
	if info, err := os.Stat(socket); err != nil || info.Mode()&os.ModeSocket == 0 {
		return ErrNoManager
	}
	conn, err := dbus.Dial("unix:path=" + socket)
	if err != nil {
		return fmt.Errorf("%w: %w", ErrNoManager, err)
	}
	defer conn.Close()
	if err := conn.Auth(nil); err != nil {
		return fmt.Errorf("%w: %w", ErrNoManager, err)
	}
	unit := []property{
		{"Description", dbus.MakeVariant("leitstand's trial of a keyboard mapping")},
		{"Type", dbus.MakeVariant("exec")}, // it is active once the program runs, and not before
		{"ExecStart", dbus.MakeVariant([]execution{{words[0], words, false}})},
		{"Environment", dbus.MakeVariant(slices.DeleteFunc(slices.Clone(env), func(v string) bool {
			return !variable.MatchString(v) // one that a unit cannot have
		}))},
		{"WorkingDirectory", dbus.MakeVariant(folder)},
		{"CollectMode", dbus.MakeVariant("inactive-or-failed")},
	}
	type aux struct {
		Name string
		Unit []property
	}
	const program, object = "org.freedesktop.systemd1", "/org/freedesktop/systemd1"
	manager := conn.Object(program, object)
	err = manager.Call(program+".Manager.StartTransientUnit", 0, name+".service", "fail", unit, []aux{}).Err
	for wait := time.Now().Add(starting); err == nil; time.Sleep(starting / 50) {
		var at dbus.ObjectPath
		if err = manager.Call(program+".Manager.GetUnit", 0, name+".service").Store(&at); err != nil {
			break // one that has failed is gone
		}
		var state dbus.Variant
		state, err = conn.Object(program, at).GetProperty(program + ".Unit.ActiveState")
		switch {
		case err != nil:
		case state.Value() == "active":
			return nil
		case state.Value() == "failed" || time.Now().After(wait): // it is inactive until its turn comes
			err = fmt.Errorf("%s is %v", name, state.Value())
		}
	}
	return fmt.Errorf("the user's service manager: %w", err)
}

// starting is how long a program may take to run.
const starting = 5 * time.Second
