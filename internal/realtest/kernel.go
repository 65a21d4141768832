package realtest

import (
	"bytes"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// checkers is where scripts/install-checkers puts a kernel that no package installs.
const checkers = "/usr/local/lib/leitstand-checkers"

// modules are what a kernel needs for a keyboard on a USB port, in the order of loading;
// what is not there is built in.
var modules = []string{
	"drivers/usb/common/usb-common", "drivers/usb/core/usbcore", "drivers/usb/host/xhci-hcd",
	"drivers/usb/host/xhci-pci", "drivers/hid/hid", "drivers/hid/hid-generic", "drivers/hid/usbhid/usbhid",
	"drivers/input/evdev",
}

// Kernel is an emulated machine with a kernel, udev, a keyboard on a USB port and one of
// a PC's own.
type Kernel struct {
	t       testing.TB
	line    *lockedBuffer // what the guest says
	monitor io.Writer
	replies *lockedBuffer
	ordered int
}

// The identities of the machine's keyboards, as the kernel gives them.
const (
	USBBoard = "0003:0627:0001"
	PCBoard  = "0011:0001:0001"
)

// Boot starts a machine that has udev's own hardware database. Then the administrator's
// commands are done as they stand, where the files are; a keymap called console.map is
// loaded into its consoles.
func Boot(t testing.TB, files map[string][]byte, commands ...string) *Kernel {
	t.Helper()
	if runtime.GOOS != "linux" || runtime.GOARCH != "amd64" {
		Missing(t, "the kernel in this test is for linux/amd64", "nothing for other systems")
	}
	Need(t, "qemu-system-x86_64", "qemu-system-x86")
	Need(t, "cpio", "cpio")
	Need(t, "udevadm", "udev")
	Need(t, "systemd-hwdb", "udev")
	Need(t, "loadkeys", "kbd")
	image, disk := kernel(t), filepath.Join(t.TempDir(), "initramfs")
	require.NoError(t, os.WriteFile(disk, initramfs(t, image.modules, files, commands), 0o644))

	r, w, err := os.Pipe()
	require.NoError(t, err)
	k := &Kernel{t: t, line: &lockedBuffer{}, replies: &lockedBuffer{}}
	cmd := exec.Command(
		"qemu-system-x86_64", "-machine", "q35", "-accel", "tcg", "-m", "512", "-nodefaults", "-vga", "std",
		"-display", "none", "-no-reboot", "-device", "qemu-xhci", "-device", "usb-kbd,id=board", "-chardev",
		"file,id=line,path=/dev/fd/3", "-serial", "chardev:line", "-qmp", "stdio", "-kernel", image.path, "-initrd",
		disk, "-append", "console=tty0 quiet loglevel=3 panic=-1",
	)
	cmd.ExtraFiles = []*os.File{w}
	cmd.Stdout = k.replies
	said := &lockedBuffer{}
	cmd.Stderr = said
	k.monitor, err = cmd.StdinPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	w.Close()
	go func() { _, _ = io.Copy(k.line, r) }()
	t.Cleanup(func() {
		_ = cmd.Process.Kill()
		_ = cmd.Wait()
		if t.Failed() {
			t.Logf("the machine said:\n%s%s%s", k.line.From(0), k.replies.From(0), said.From(0))
		}
	})
	k.order("qmp_capabilities", nil)
	// An emulated processor is slow, and slower on a busy machine.
	wait(t, 5*time.Minute, "the kernel", func() bool {
		text := k.line.From(0)
		require.NotRegexp(t, `(?m)^failed `, text)
		return strings.HasPrefix(text, "ready") || strings.Contains(text, "\nready")
	})
	return k
}

// image is a kernel with its modules.
type image struct {
	path    string
	modules []string
}

// kernel finds a kernel, with those of the modules that are not built into it.
func kernel(t testing.TB) image {
	t.Helper()
	for _, root := range []string{checkers, "/"} {
		found, _ := filepath.Glob(filepath.Join(root, "boot/vmlinuz-*"))
		for _, path := range slices.Backward(found) {
			version := strings.TrimPrefix(filepath.Base(path), "vmlinuz-")
			in := filepath.Join(root, "lib/modules", version, "kernel")
			i := image{path: path}
			for _, m := range modules {
				f, _ := filepath.Glob(filepath.Join(in, m+".ko*"))
				i.modules = append(i.modules, f...)
			}
			if f, err := os.Open(path); err == nil && len(i.modules) > 0 {
				f.Close()
				return i
			}
		}
	}
	Missing(t, "no kernel is in "+checkers, "nothing: scripts/install-checkers puts one there")
	return image{}
}

// initramfs packs what the machine starts from, with files of the test.
func initramfs(t testing.TB, modules []string, files map[string][]byte, commands []string) []byte {
	t.Helper()
	root := t.TempDir()
	put := func(path string, data []byte) {
		to := filepath.Join(root, path)
		require.NoError(t, os.MkdirAll(filepath.Dir(to), 0o755))
		require.NoError(t, os.WriteFile(to, data, 0o755))
	}
	read := func(path string) []byte {
		data, err := os.ReadFile(path)
		require.NoError(t, err)
		return data
	}
	for i, m := range modules {
		put(fmt.Sprintf("modules/%02d-%s", i, filepath.Base(m)), read(m))
	}
	for _, stock := range []string{"lib/udev/rules.d/60-evdev.rules", "lib/udev/hwdb.d/60-keyboard.hwdb"} {
		put(stock, read("/"+stock))
		put("usr/"+stock, read("/"+stock)) // the one place is the other on a system, and newer ones look here only
	}
	library := regexp.MustCompile(`(/\S+) \(0x`)
	for _, name := range []string{
		"cat", "chmod", "cp", "cut", "loadkeys", "mkdir", "mv", "readlink", "rm", "sh", "mktemp", "rmdir", "sha256sum",
		"sleep", "systemd-hwdb", "udevadm",
	} {
		path, err := exec.LookPath(name)
		require.NoError(t, err)
		put("bin/"+name, read(path))
		needs, _ := Output(t, "ldd", path)
		for _, f := range library.FindAllStringSubmatch(needs, -1) {
			put(f[1], read(f[1]))
		}
	}
	put("lib/systemd/systemd-udevd", read(filepath.Join(root, "bin/udevadm")))
	guest := exec.Command("go", "build", "-o", filepath.Join(root, "init"), "leitstand/internal/realtest/guest")
	guest.Env = append(os.Environ(), "CGO_ENABLED=0")
	said, err := guest.CombinedOutput()
	require.NoError(t, err, "%s", said)
	for name, data := range files {
		put(filepath.Join("test", name), data)
	}
	if len(commands) > 0 {
		put("test/commands", []byte(strings.ReplaceAll(strings.Join(commands, "\n")+"\n", "sudo ", "")))
	}
	pack := exec.Command("sh", "-c", "find . | sort | cpio -o -H newc --quiet")
	pack.Dir = root
	var packed, errs bytes.Buffer
	pack.Stdout, pack.Stderr = &packed, &errs
	require.NoError(t, pack.Run(), "%s", &errs)
	return packed.Bytes()
}

// order gives the emulator a command, of the QEMU Machine Protocol.
func (k *Kernel) order(command string, arguments map[string]any) {
	k.t.Helper()
	text, err := json.Marshal(struct {
		Execute   string         `json:"execute"`
		Arguments map[string]any `json:"arguments,omitempty"`
	}{command, arguments})
	require.NoError(k.t, err)
	_, err = k.monitor.Write(append(text, '\n'))
	require.NoError(k.t, err)
	k.ordered++
}

// obeyed waits until the emulator has done all that it was ordered.
func (k *Kernel) obeyed() {
	k.t.Helper()
	WaitFor(k.t, "the emulator", func() bool {
		said := k.replies.From(0)
		require.NotContains(k.t, said, `"error"`)
		return strings.Count(said, `"return"`) >= k.ordered
	})
}

// Unplug takes the keyboard on the USB port away; presses are the other one's then.
func (k *Kernel) Unplug() {
	k.t.Helper()
	k.order("device_del", map[string]any{"id": "board"})
	WaitFor(
		k.t, "the keyboard to be gone", func() bool { return strings.Contains(k.replies.From(0), "DEVICE_DELETED") },
	)
}

// key presses a key or lets it go, by its scan code of set 1, with 0xE000 for the prefix.
func (k *Kernel) key(scancode int, down bool) {
	k.t.Helper()
	number := scancode & 0x7F
	if scancode >= 0xE000 {
		number |= 0x80
	}
	k.order("input-send-event", map[string]any{"events": []any{map[string]any{"type": "key", "data": map[string]any{
		"down": down, "key": map[string]any{"type": "number", "data": number}}}}})
}

// Reaction is what a chord does.
type Reaction struct {
	Pressed []int  // the event codes that a driver gave, in their order
	Board   string // whose
	Typed   string // what the program on the console was given
	Console int    // the console that came to the front, 0 for none
}

// endKey is pressed behind each chord, so that there is an end to wait for: F12, its
// scan code, its event code and what it types on a console.
const (
	endScancode = 0x58
	endCode     = 88
	endText     = "\x1b[24~"
)

// Chord presses keys one after the other, lets them go in the other order, and says what
// that did.
func (k *Kernel) Chord(scancodes ...int) Reaction {
	k.t.Helper()
	return k.chord(scancodes, false)
}

// ChordToConsole is Chord for one that brings a console to the front: the kernel does that
// in its own time, after it has given the key to who reads it.
func (k *Kernel) ChordToConsole(scancodes ...int) Reaction {
	k.t.Helper()
	return k.chord(scancodes, true)
}

func (k *Kernel) chord(scancodes []int, toConsole bool) Reaction {
	k.t.Helper()
	from := k.line.Len()
	for _, s := range scancodes {
		k.key(s, true)
	}
	for _, s := range slices.Backward(scancodes) {
		k.key(s, false)
	}
	k.key(endScancode, true)
	k.key(endScancode, false)
	k.obeyed()
	var r Reaction
	WaitFor(k.t, "what the keys do", func() bool {
		r = Reaction{}
		ended := false
		for said := range strings.Lines(k.line.From(from)) {
			f := strings.Fields(said)
			switch {
			case len(f) == 4 && f[0] == "key":
				code, err := strconv.Atoi(f[2])
				require.NoError(k.t, err)
				switch {
				case code == endCode:
					ended = f[3] == "0"
				case f[3] == "1":
					r.Pressed, r.Board = append(r.Pressed, code), f[1]
				}
			case len(f) == 2 && f[0] == "typed":
				text, err := hex.DecodeString(f[1])
				if err != nil {
					return false // half a line
				}
				r.Typed += string(text)
			case len(f) == 2 && f[0] == "console":
				r.Console, _ = strconv.Atoi(f[1])
			}
		}
		var typed bool
		r.Typed, typed = strings.CutSuffix(r.Typed, endText)
		return ended && typed && (!toConsole || r.Console != 0)
	})
	return r
}

// Said is what was written to the machine's serial line, /dev/ttyS0.
func (k *Kernel) Said() string { return k.line.From(0) }
