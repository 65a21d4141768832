//go:build windows

// Walk loads keyboard layout libraries as the system does, and prints what their tables say.
package main

import (
	"fmt"
	"os"
	"syscall"
	"unsafe"
)

func at[T any](p uintptr) T { return *(*T)(unsafe.Pointer(p)) }

func main() {
	get := syscall.NewLazyDLL("kernel32.dll").NewProc("GetProcAddress")
	var first syscall.Handle
	for _, name := range os.Args[1:] {
		h, err := syscall.LoadLibrary(name)
		if err != nil {
			fmt.Println(err)
			os.Exit(1)
		}
		byName, err := syscall.GetProcAddress(h, "KbdLayerDescriptor")
		byNumber, _, _ := get.Call(uintptr(h), 1)
		fmt.Println("functions", err, byName != 0 && byName == byNumber, "elsewhere", h != first && first != 0)
		first = h
		tables, _, _ := syscall.SyscallN(byNumber)
		walk(tables)
	}
}

func walk(tables uintptr) {
	mods := at[uintptr](tables)
	for b := at[uintptr](mods); at[byte](b) != 0; b += 2 {
		fmt.Printf("modifier %02X %d\n", at[byte](b), at[byte](b+1))
	}
	for i := uintptr(0); i <= uintptr(at[uint16](mods+8)); i++ {
		fmt.Printf("column %d %d\n", i, at[byte](mods+10+i))
	}
	for t := at[uintptr](tables + 8); at[uintptr](t) != 0; t += 16 {
		n, size := uintptr(at[byte](t+8)), uintptr(at[byte](t+9))
		for r := at[uintptr](t); at[byte](r) != 0; r += size {
			fmt.Printf("row %02X %d", at[byte](r), at[byte](r+1))
			for i := uintptr(0); i < n; i++ {
				fmt.Printf(" %04X", at[uint16](r+2+2*i))
			}
			fmt.Println()
		}
	}
	if dead := at[uintptr](tables + 16); dead != 0 {
		for d := dead; at[uint32](d) != 0; d += 8 {
			fmt.Printf("dead %04X %04X %04X %d\n", at[uint16](d+2), at[uint16](d), at[uint16](d+4), at[uint16](d+6))
		}
	}
	for i, list := range []uintptr{at[uintptr](tables + 24), at[uintptr](tables + 32)} {
		for n := list; at[byte](n) != 0; n += 16 {
			text := (*[100]uint16)(unsafe.Pointer(at[uintptr](n + 8)))
			fmt.Printf("name %d %02X %s\n", i, at[byte](n), syscall.UTF16ToString(text[:]))
		}
	}
	codes := at[uintptr](tables + 48)
	for i := uintptr(0); i < uintptr(at[byte](tables+56)); i++ {
		fmt.Printf("code %02X %04X\n", i, at[uint16](codes+2*i))
	}
	for i, list := range []uintptr{at[uintptr](tables + 64), at[uintptr](tables + 72)} {
		for e := list; at[byte](e) != 0; e += 4 {
			fmt.Printf("code E%d %02X %04X\n", i, at[byte](e), at[uint16](e+2))
		}
	}
	fmt.Printf("flags %08X\n", at[uint32](tables+80))
	if list := at[uintptr](tables + 88); list != 0 {
		for g := list; at[byte](g) != 0; g += uintptr(at[byte](tables + 85)) {
			fmt.Printf("ligature %02X %d", at[byte](g), at[uint16](g+2))
			for i := uintptr(0); i < uintptr(at[byte](tables+84)); i++ {
				fmt.Printf(" %04X", at[uint16](g+4+2*i))
			}
			fmt.Println()
		}
	}
}
