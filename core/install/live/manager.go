package live

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"

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
// lives on where a session's end ends all that is. It is asked by the socket of its own, since a session may have another
// bus.
func StartOutside(name, folder string, words, env []string) error {
	socket := filepath.Join(os.Getenv("XDG_RUNTIME_DIR"), "systemd/private")
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
	call := conn.Object("org.freedesktop.systemd1", "/org/freedesktop/systemd1").Call(
		"org.freedesktop.systemd1.Manager.StartTransientUnit", 0, name+".service", "fail", unit, []aux{},
	)
	if call.Err != nil {
		return fmt.Errorf("the user's service manager: %w", call.Err)
	}
	return nil
}
