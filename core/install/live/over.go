package live

import (
	"bufio"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"

	"leitstand/core/change"
)

// A session that is over leaves its address behind, where nobody answers any more. What its programs kept is then in
// their files: Xfce's daemon and Plasma's keeper read them when they begin anew. dconf's database is written by its own
// program only, which any bus starts: one is begun for it.

// errOver is that of a bus where nobody answers.
var errOver = errors.New("the session is over")

// isOver says whether nobody listens at an address that was one.
func isOver(err error) bool {
	return errors.Is(err, fs.ErrNotExist) || errors.Is(err, syscall.ECONNREFUSED)
}

// keepers are the programs that keep a store, by the names that their processes have.
var keepers = map[string][]string{
	change.Dconf:  {"dconf-service"},
	change.Xfconf: {"xfconfd"},
	change.Keeper: {"kglobalaccel5", "kglobalacceld", "kwin_wayland", "kded5"},
}

// abandoned says whether the session that a store was kept in is over, and no other session of the user keeps it.
func (m *Machine) abandoned(store string) bool {
	return m.Root == "" && errors.Is(m.connect(), errOver) && !m.bus.kept[store]
}

// ending is how long the programs of a session may take to end after it, on a busy machine.
const ending = 15 * time.Second

// often is how often they are looked for meanwhile.
const often = 100 * time.Millisecond

// keptElsewhere are the stores that a process of this user keeps, whatever bus it is on, and goes on to keep. It waits for
// those of the session that is over to end.
func (m *Machine) keptElsewhere() map[string]bool {
	for patience := time.Now().Add(ending); ; time.Sleep(often) {
		if kept, ends := m.kept(); !ends || time.Now().After(patience) {
			return kept
		}
	}
}

// kept are the stores that a process of this user keeps now. Ends says whether one of them is not known to be of another
// session.
func (m *Machine) kept() (kept map[string]bool, ends bool) {
	kept = map[string]bool{}
	found, _ := filepath.Glob("/proc/[0-9]*/comm")
	for _, at := range found {
		name, err := os.ReadFile(at)
		if err != nil {
			continue // it has ended
		}
		for store, programs := range keepers {
			if slices.Contains(programs, strings.TrimSpace(string(name))) && m.isOurs(filepath.Dir(at)) {
				kept[store] = true
				ends = ends || !m.isElsewhere(filepath.Dir(at))
			}
		}
	}
	return kept, ends
}

// isElsewhere says whether a process is known to be on another bus than the session that is over.
func (m *Machine) isElsewhere(process string) bool {
	env, _ := os.ReadFile(filepath.Join(process, "environ"))
	over, _, _ := strings.Cut(m.env("DBUS_SESSION_BUS_ADDRESS"), ",")
	elsewhere := false
	for variable := range strings.SplitSeq(string(env), "\x00") {
		name, address, _ := strings.Cut(variable, "=")
		if name == "DBUS_SESSION_BUS_ADDRESS" || name == "DBUS_STARTER_ADDRESS" {
			on, _, _ := strings.Cut(address, ",")
			if on == over {
				return false
			}
			elsewhere = true
		}
	}
	return elsewhere
}

// isOurs says whether a process is one of this user's, with this home. One that does not tell is taken for one.
func (m *Machine) isOurs(process string) bool {
	env, err := os.ReadFile(filepath.Join(process, "environ"))
	if errors.Is(err, fs.ErrNotExist) || err == nil && len(env) == 0 { // it has ended
		return false
	}
	return err != nil || slices.Contains(strings.Split(string(env), "\x00"), "HOME="+m.Home)
}

// beginBus begins a bus for those programs that need one, and gives its address as a variable.
func (m *Machine) beginBus() (address string, end func(), err error) {
	cmd := exec.Command("dbus-daemon", "--session", "--nofork", "--nopidfile", "--print-address=1")
	cmd.Env = m.Env
	out, err := cmd.StdoutPipe()
	if err == nil {
		err = m.startChild(cmd)
	}
	if err != nil {
		return "", nil, fmt.Errorf("%w, and no bus can be begun: %w", errOver, err)
	}
	end = func() {
		_ = cmd.Process.Kill()
		_ = cmd.Wait()
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		end()
		return "", nil, fmt.Errorf("%w, and no bus begins: %w", errOver, err)
	}
	return "DBUS_SESSION_BUS_ADDRESS=" + strings.TrimSpace(line), end, nil
}
