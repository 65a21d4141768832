//go:build linux

// Command guest is the first and only process of a machine that has a kernel, udev and
// two keyboards: it sets the keyboards up as a distribution does, and says on the serial
// line what its drivers and its text console make of each press.
//
// A line is "ready", "key BUS:VENDOR:PRODUCT CODE VALUE" by the kernel's event codes,
// "typed HEX", "console N", or "failed WHY".
package main

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"golang.org/x/sys/unix"
)

var (
	mu   sync.Mutex
	line *os.File
)

func say(format string, a ...any) {
	mu.Lock()
	defer mu.Unlock()
	fmt.Fprintf(line, format+"\n", a...)
}

func main() {
	err := errors.Join(
		os.MkdirAll("/test", 0o755), os.Setenv("PATH", "/bin"),
		mount("devtmpfs", "/dev"), mount("proc", "/proc"), mount("sysfs", "/sys"), mount("tmpfs", "/run"),
	)
	if line, _ = os.OpenFile("/dev/ttyS0", os.O_WRONLY, 0); line == nil {
		os.Exit(1)
	}
	if err == nil {
		err = begin()
	}
	if err != nil {
		say("failed %s", strings.ReplaceAll(err.Error(), "\n", "; "))
	} else {
		say("ready")
	}
	select {} // the kernel must not lose its first process
}

func mount(kind, at string) error {
	if err := os.MkdirAll(at, 0o755); err != nil {
		return err
	}
	return unix.Mount(kind, at, kind, 0, "")
}

// Where a test puts its files.
const (
	commands = "/test/commands" // a line of shell each
	keymap   = "/test/console.map"
)

func begin() error {
	modules, err := filepath.Glob("/modules/*")
	if err != nil {
		return err
	}
	for _, m := range modules { // their names begin with their place
		if err := load(m); err != nil {
			return fmt.Errorf("%s: %w", m, err)
		}
	}
	// The system's own database is compiled beside its sources, in the one place that has two names on a system.
	const one, other = "/lib/udev/hwdb.bin", "/usr/lib/udev/hwdb.bin"
	if err := run([][]string{{"/bin/systemd-hwdb", "--usr", "update"}}); err != nil {
		return err
	}
	err = os.Link(one, other)
	if errors.Is(err, os.ErrNotExist) {
		err = os.Link(other, one)
	}
	if err != nil {
		return err
	}
	steps := [][]string{
		{"/lib/systemd/systemd-udevd", "--daemon"},
		{"/bin/udevadm", "trigger", "--settle", "--action=add"},
	}
	if err := run(steps); err != nil {
		return err
	}
	if err := keyboards(2); err != nil {
		return err
	}
	// From here on what a person does who has put the files into place.
	steps = nil
	if text, err := os.ReadFile(commands); err == nil {
		for line := range strings.Lines(string(text)) {
			steps = append(steps, []string{"/bin/sh", "-c", strings.TrimSpace(line)})
		}
		steps = append(steps, []string{"udevadm", "settle"})
	}
	if _, err := os.Stat(keymap); err == nil {
		steps = append(steps, []string{"/bin/loadkeys", "-q", "-C", "/dev/tty1", keymap})
	}
	if err := run(steps); err != nil {
		return err
	}
	return errors.Join(watchKeys(), watchConsole())
}

func load(module string) error {
	f, err := os.Open(module)
	if err != nil {
		return err
	}
	defer f.Close()
	flags := 0
	if filepath.Ext(module) != ".ko" {
		flags = unix.MODULE_INIT_COMPRESSED_FILE
	}
	if err := unix.FinitModule(int(f.Fd()), "", flags); err != nil && !errors.Is(err, unix.EEXIST) {
		return err
	}
	return nil
}

func run(steps [][]string) error {
	for _, s := range steps {
		cmd := exec.Command(s[0], s[1:]...)
		cmd.Dir, cmd.Env = "/test", []string{"PATH=/bin"}
		if out, err := cmd.CombinedOutput(); err != nil {
			return fmt.Errorf("%v: %w %s", s, err, out)
		}
	}
	return nil
}

// keyboards waits until so many are there, by their lights: the bus takes its time.
func keyboards(n int) error {
	for range 3000 {
		text, err := os.ReadFile("/proc/bus/input/devices")
		if err != nil {
			return err
		}
		if strings.Count(string(text), "kbd leds") >= n {
			return nil
		}
		time.Sleep(100 * time.Millisecond)
	}
	return errors.New("the keyboards are not there")
}

func watchKeys() error {
	devices, err := filepath.Glob("/dev/input/event*")
	if err != nil {
		return err
	}
	for _, path := range devices {
		f, err := os.Open(path)
		if err != nil {
			return err
		}
		id := func(name string) string {
			text, _ := os.ReadFile(filepath.Join("/sys/class/input", filepath.Base(path), "device/id", name))
			return string(bytes.TrimSpace(text))
		}
		name := id("bustype") + ":" + id("vendor") + ":" + id("product")
		go func() {
			var event struct {
				Time  unix.Timeval
				Type  uint16
				Code  uint16
				Value int32
			}
			const isKey = 1
			for binary.Read(f, binary.NativeEndian, &event) == nil {
				if event.Type == isKey {
					say("key %s %d %d", name, event.Code, event.Value)
				}
			}
		}()
	}
	return nil
}

// watchConsole says what programs on the consoles are given, and which console is in
// front.
func watchConsole() error {
	for n := 1; n <= 4; n++ {
		f, err := os.OpenFile(fmt.Sprintf("/dev/tty%d", n), os.O_RDWR|unix.O_NOCTTY, 0)
		if err != nil {
			return err
		}
		t, err := unix.IoctlGetTermios(int(f.Fd()), unix.TCGETS)
		if err != nil {
			return err
		}
		t.Lflag &^= unix.ICANON | unix.ECHO | unix.ISIG
		t.Iflag &^= unix.ICRNL | unix.IXON
		if err := unix.IoctlSetTermios(int(f.Fd()), unix.TCSETS, t); err != nil {
			return err
		}
		go func() {
			text := make([]byte, 1024)
			for {
				n, err := f.Read(text)
				if err != nil {
					return
				}
				say("typed %x", text[:n])
			}
		}()
	}
	const front = "/sys/class/tty/tty0/active"
	was, err := os.ReadFile(front)
	go func() {
		for ; ; time.Sleep(20 * time.Millisecond) {
			if is, err := os.ReadFile(front); err == nil && !bytes.Equal(is, was) {
				was = is
				say("console %s", strings.TrimPrefix(string(bytes.TrimSpace(is)), "tty"))
			}
		}
	}()
	return err
}
