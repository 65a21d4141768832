package realtest

import (
	"context"
	"encoding/binary"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"leitstand/core/change"
)

// Wine is a Windows of the test's own, by Wine.
type Wine struct {
	Prefix string
	t      testing.TB
	env    []string
}

const (
	wine64     = "/usr/lib/wine/wine64"
	wineserver = "/usr/lib/wine/wineserver64"
)

// NewWine makes a fresh prefix. It takes some seconds.
func NewWine(t testing.TB) *Wine {
	t.Helper()
	NeedFile(t, wine64, "wine wine64")
	x := XServer(t)
	w := &Wine{Prefix: filepath.Join(t.TempDir(), "prefix"), t: t}
	w.env = x.Env("WINEPREFIX="+w.Prefix, "WINEARCH=win64", "WINEDEBUG=-all", "WINEDLLOVERRIDES=mscoree,mshtml=")
	t.Cleanup(w.end)
	w.serve()
	// Where several are made at once, one may not come up; what is asked of it has not begun.
	if _, err := w.run("wineboot", "-i"); err != nil {
		t.Logf("wineboot: %v; once more", err)
		w.end()
		require.NoError(t, os.RemoveAll(w.Prefix))
		w.serve()
		w.Run("wineboot", "-i")
	}
	require.NoError(
		t, os.WriteFile(filepath.Join(w.Prefix, "drive_c/windows/system32/bcryptprimitives.dll"), randomDLL(), 0o644),
	)
	return w
}

// Batch has the command interpreter do lines of steps in a folder of C:, which has the script that they call.
func (w *Wine) Batch(folder string, lines ...string) {
	w.t.Helper()
	script := strings.ReplaceAll(change.WindowsScript, "\n", "\r\n")
	require.NoError(w.t, os.WriteFile(w.Path(folder, change.WindowsFile), []byte(script), 0o600))
	text := "@echo off\r\ncd /d C:\\" + folder + "\r\n"
	for _, l := range lines {
		if strings.HasPrefix(l, `.\`) {
			l = "call " + l
		}
		text += l + "\r\n"
	}
	require.NoError(w.t, os.WriteFile(w.Path(folder, "lines.cmd"), []byte(text), 0o600))
	w.Run("cmd", "/c", `C:\`+folder+`\lines.cmd`)
}

// Run runs a Windows program and returns what it prints.
func (w *Wine) Run(args ...string) string {
	w.t.Helper()
	out, err := w.run(args...)
	require.NoError(w.t, err, "wine %v: %s", args, out)
	return out
}

// Says runs a Windows program in a folder of C:, and returns what it prints, whether or not it succeeds.
func (w *Wine) Says(folder string, args ...string) string {
	w.t.Helper()
	said, _ := w.runIn(w.Path(folder), args...)
	return said
}

// wineLimit is how long a program under Wine may take.
const wineLimit = 3 * time.Minute

func (w *Wine) run(args ...string) (string, error) { return w.runIn("", args...) }

// runIn runs a program. What it prints goes to files: services that it starts live on, and would hold a pipe.
func (w *Wine) runIn(dir string, args ...string) (string, error) {
	ctx, cancel := context.WithTimeout(context.Background(), wineLimit)
	defer cancel()
	kept := w.t.TempDir()
	out, errs := filepath.Join(kept, "out"), filepath.Join(kept, "errors")
	stdout, err := os.Create(out)
	require.NoError(w.t, err)
	defer stdout.Close()
	stderr, err := os.Create(errs)
	require.NoError(w.t, err)
	defer stderr.Close()
	cmd := exec.CommandContext(ctx, wine64, args...)
	cmd.Dir, cmd.Env, cmd.Stdout, cmd.Stderr = dir, w.env, stdout, stderr
	err = cmd.Run()
	said, readErr := os.ReadFile(out)
	require.NoError(w.t, readErr)
	switch {
	case ctx.Err() != nil:
		w.end()
		err = fmt.Errorf("it took longer than %s", wineLimit)
	case err != nil:
		complaint, _ := os.ReadFile(errs)
		err = fmt.Errorf("%w: %s", err, complaint)
	}
	return string(said), err
}

// serve starts the server of the prefix. One that begins with the first program ends with the last, and a
// program that comes while it ends is not served.
func (w *Wine) serve() {
	w.t.Helper()
	require.NoError(w.t, os.MkdirAll(w.Prefix, 0o700))
	cmd := exec.Command(wineserver, "-p")
	cmd.Env = w.env
	require.NoError(w.t, cmd.Run())
}

// end ends all programs of the prefix.
func (w *Wine) end() {
	ctx, cancel := context.WithTimeout(context.Background(), wineLimit)
	defer cancel()
	cmd := exec.CommandContext(ctx, wineserver, "-k", "-w")
	cmd.Env = w.env
	_ = cmd.Run()
}

// Path is where a file of drive C lies, its path given with slashes.
func (w *Wine) Path(elem ...string) string {
	return filepath.Join(append([]string{w.Prefix, "drive_c"}, elem...)...)
}

// CompareFiles puts a program fc, which compares files, into a folder of C.
func (w *Wine) CompareFiles(folder string) {
	w.t.Helper()
	cmd := exec.Command("go", "build", "-o", w.Path(folder, "fc.exe"), "leitstand/internal/realtest/fc")
	cmd.Env = append(os.Environ(), "GOOS=windows", "GOARCH=amd64", "CGO_ENABLED=0")
	out, err := cmd.CombinedOutput()
	require.NoError(w.t, err, "%s", out)
}

// Saved is where settings.cmd keeps what it has saved.
func (w *Wine) Saved(elem ...string) string {
	w.t.Helper()
	found, err := filepath.Glob(w.Path("users/*/AppData/Local"))
	require.NoError(w.t, err)
	for _, dir := range found {
		if !strings.Contains(dir, "Public") {
			return filepath.Join(append([]string{dir, "Leitstand"}, elem...)...)
		}
	}
	w.t.Fatal("no user has a folder for settings")
	return ""
}

// randomDLL is a library without code whose one export forwards to the system's
// random numbers. Programs built by Go ask for it at their start, and Wine has it
// from version 9 on.
func randomDLL() []byte {
	const rva = 0x1000
	le := binary.LittleEndian
	names := []string{"bcryptprimitives.dll\x00", "ProcessPrng\x00", "advapi32.SystemFunction036\x00"}
	at := []uint32{50, 50 + uint32(len(names[0])), 50 + uint32(len(names[0])+len(names[1]))}
	end := at[2] + uint32(len(names[2]))
	var sec []byte
	for _, v := range []uint32{0, 0, 0, rva + at[0], 1, 1, 1, rva + 40, rva + 44, rva + 48, rva + at[2], rva + at[1]} {
		sec = le.AppendUint32(sec, v)
	}
	sec = le.AppendUint16(sec, 0)
	for _, n := range names {
		sec = append(sec, n...)
	}
	sec = append(sec, make([]byte, 0x200-len(sec))...)

	head := make([]byte, 0x40)
	copy(head, "MZ")
	head[0x3C] = 0x40
	head = append(head, "PE\x00\x00"...)
	head = le.AppendUint16(head, 0x8664) // x86-64
	head = le.AppendUint16(head, 1)      // one section
	head = append(head, make([]byte, 12)...)
	head = le.AppendUint16(head, 240)
	head = le.AppendUint16(head, 0x2022) // a library
	opt := make([]byte, 240)
	le.PutUint16(opt, 0x20B)
	opt[2] = 14
	le.PutUint32(opt[8:], 0x200)
	le.PutUint64(opt[24:], 0x180000000)
	le.PutUint32(opt[32:], 0x1000)
	le.PutUint32(opt[36:], 0x200)
	le.PutUint16(opt[40:], 6)
	le.PutUint16(opt[48:], 6)
	le.PutUint32(opt[56:], 0x2000)
	le.PutUint32(opt[60:], 0x200)
	le.PutUint16(opt[68:], 2)
	le.PutUint16(opt[70:], 0x0160)
	for i, v := range []uint64{0x100000, 0x1000, 0x100000, 0x1000} {
		le.PutUint64(opt[72+8*i:], v)
	}
	le.PutUint32(opt[108:], 16)
	le.PutUint32(opt[112:], rva)
	le.PutUint32(opt[116:], end)
	head = append(head, opt...)
	section := make([]byte, 40)
	copy(section, ".edata")
	for i, v := range []uint32{end, rva, 0x200, 0x200} {
		le.PutUint32(section[8+4*i:], v)
	}
	le.PutUint32(section[36:], 0x40000040)
	head = append(head, section...)
	return append(append(head, make([]byte, 0x200-len(head))...), sec...)
}
