//go:build windows

// Command readlink prints what the system's own IShellLink reads from a link, as
// JSON: the second opinion that the tests ask under Wine.
package main

import (
	"encoding/json"
	"fmt"
	"os"
	"runtime"
	"syscall"
	"unsafe"

	"golang.org/x/sys/windows"
)

var (
	clsidShellLink = windows.GUID{Data1: 0x00021401, Data4: [8]byte{0xC0, 7: 0x46}}
	iidShellLinkW  = windows.GUID{Data1: 0x000214F9, Data4: [8]byte{0xC0, 7: 0x46}}
	iidPersistFile = windows.GUID{Data1: 0x0000010B, Data4: [8]byte{0xC0, 7: 0x46}}
)

// object is a COM object: a pointer to its table of methods.
type object struct{ methods *[64]uintptr }

func (o *object) call(method int, args ...uintptr) uint32 {
	r, _, _ := syscall.SyscallN(o.methods[method], append([]uintptr{uintptr(unsafe.Pointer(o))}, args...)...)
	return uint32(r)
}

func must(what string, result uint32) {
	if result&0x80000000 != 0 {
		fmt.Fprintf(os.Stderr, "%s: %08x\n", what, result)
		os.Exit(1)
	}
}

func main() {
	runtime.LockOSThread() // COM is per thread
	ole := windows.NewLazySystemDLL("ole32.dll")
	ole.NewProc("CoInitializeEx").Call(0, 2)
	var link, file *object
	r, _, _ := ole.NewProc("CoCreateInstance").Call(uintptr(unsafe.Pointer(&clsidShellLink)), 0, 1,
		uintptr(unsafe.Pointer(&iidShellLinkW)), uintptr(unsafe.Pointer(&link)))
	must("CoCreateInstance", uint32(r))
	must("IPersistFile", link.call(0, uintptr(unsafe.Pointer(&iidPersistFile)), uintptr(unsafe.Pointer(&file))))
	name, err := windows.UTF16PtrFromString(os.Args[1])
	if err != nil {
		panic(err)
	}
	must("Load", file.call(5, uintptr(unsafe.Pointer(name)), 0))

	buf := make([]uint16, 4096)
	at := uintptr(unsafe.Pointer(&buf[0]))
	text := func(what string, result uint32) string {
		must(what, result)
		s := windows.UTF16ToString(buf)
		buf[0] = 0
		return s
	}
	out := map[string]any{
		"path":        text("GetPath", link.call(3, at, 4096, 0, 0)),
		"arguments":   text("GetArguments", link.call(10, at, 4096)),
		"dir":         text("GetWorkingDirectory", link.call(8, at, 4096)),
		"description": text("GetDescription", link.call(6, at, 4096)),
	}
	var hotkey uint16
	must("GetHotkey", link.call(12, uintptr(unsafe.Pointer(&hotkey))))
	out["hotkey"] = hotkey
	var list uintptr
	must("GetIDList", link.call(4, uintptr(unsafe.Pointer(&list))))
	if list != 0 {
		windows.NewLazySystemDLL("shell32.dll").NewProc("SHGetPathFromIDListW").Call(list, at)
		out["idpath"] = text("SHGetPathFromIDList", 0)
	}
	if err := json.NewEncoder(os.Stdout).Encode(out); err != nil {
		panic(err)
	}
}
