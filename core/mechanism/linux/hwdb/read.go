package hwdb

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// record is one block of the file: patterns, and the keys that they get.
type record struct {
	patterns []string
	keys     []assignment
}

type assignment struct {
	code uint64
	name string
}

// Read reads the file: what each board of the machine, and one that no rule singles
// out, gets from it.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, "hwdb/90-leitstand.hwdb")
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	records, err := parse(string(text))
	if err != nil {
		return nil, fmt.Errorf("hwdb/90-leitstand.hwdb:%w", err)
	}
	var list []mechanism.Binding
	// Devices that are no board of the mapping: ids that nobody has.
	stranger := []string{
		"evdev:input:b0003v0000p0000", "evdev:input:b0005v0000p0000", "evdev:input:b0018v0000p0000",
		"evdev:atkbd:dmi:",
	}
	for _, b := range m.Boards {
		own := devices(b)
		stranger = slices.DeleteFunc(stranger, func(d string) bool { return slices.Contains(own, d) })
	}
	got, err := given("", stranger, records)
	if err != nil {
		return nil, err
	}
	list = append(list, got...)
	for _, b := range m.Boards {
		own, err := given(b.Name, devices(b), records)
		if err != nil {
			return nil, err
		}
		list = append(list, own...)
	}
	behaviour.Sort(list)
	return list, nil
}

// devices are the names by which udev looks for a board.
func devices(b *machine.Board) []string {
	var names []string
	for _, id := range b.IDs {
		switch id.Bus {
		case machine.USB:
			names = append(names, fmt.Sprintf("evdev:input:b0003v%04Xp%04Xe0110", id.Vendor, id.Product))
		case machine.Bluetooth:
			names = append(names, fmt.Sprintf("evdev:input:b0005v%04Xp%04Xe0110", id.Vendor, id.Product))
		case machine.BuiltIn:
			names = append(names, "evdev:atkbd:dmi:", "evdev:input:b0018v0000p0000")
		case machine.AnyExternal:
			names = append(names, "evdev:input:b0003v0000p0000", "evdev:input:b0005v0000p0000")
		}
	}
	return names
}

// given is what the devices of a board get; where they do not get the same, the key
// says so.
func given(board string, devices []string, records []record) ([]mechanism.Binding, error) {
	effects := map[keys.Key]map[string]behaviour.Effect{}
	for _, d := range devices {
		for _, r := range records {
			hit := false
			for _, p := range r.patterns {
				ok, err := path.Match(p, d)
				if err != nil {
					return nil, fmt.Errorf("hwdb/90-leitstand.hwdb: the pattern %q: %w", p, err)
				}
				hit = hit || ok
			}
			if !hit {
				continue
			}
			for _, a := range r.keys {
				k, ok := source(a.code, strings.HasPrefix(d, "evdev:atkbd:"))
				if !ok {
					return nil, fmt.Errorf("hwdb/90-leitstand.hwdb: no key has the scan code %x", a.code)
				}
				if effects[k] == nil {
					effects[k] = map[string]behaviour.Effect{}
				}
				effects[k][d] = effect(a.name)
			}
		}
	}
	var list []mechanism.Binding
	for _, k := range keys.All() {
		if len(effects[k]) == 0 {
			continue
		}
		var first *behaviour.Effect
		same := true
		for _, d := range devices {
			if _, has := scanned(k, strings.HasPrefix(d, "evdev:atkbd:")); !has {
				continue // the device has no such key
			}
			e, ok := effects[k][d]
			if !ok {
				e = behaviour.Effect{Kind: behaviour.Becomes, Key: k}
			}
			if first == nil {
				first = &e
			}
			same = same && first.Equal(e)
		}
		e := *first
		if !same {
			e = behaviour.Effect{Kind: behaviour.Other, Words: "does one thing on one of its buses, another on another"}
		}
		list = append(list, mechanism.Binding{Board: board, Chord: keys.Chord{Key: k}, Effect: e})
	}
	return list, nil
}

func effect(name string) behaviour.Effect {
	k, named := keys.ByEvdevName(name)
	switch {
	case name == "reserved":
		return behaviour.Effect{Kind: behaviour.Nothing}
	case !named || k == keys.None:
		return behaviour.Effect{Kind: behaviour.Other, Words: fmt.Sprintf("is to be %q, which no key is", name)}
	}
	return behaviour.Effect{Kind: behaviour.Becomes, Key: k}
}

// source is the key of a scan code.
func source(code uint64, controller bool) (keys.Key, bool) {
	if !controller {
		return keys.ByHID(int(code))
	}
	if code >= 0x80 {
		return keys.ByScancode(0xE000 | int(code&0x7F))
	}
	return keys.ByScancode(int(code))
}

// scanned is the code of a key, if a device can have it.
func scanned(k keys.Key, controller bool) (int, bool) {
	if controller {
		return k.Scancode()
	}
	return k.HID()
}

// parse reads blocks parted by empty lines. Errors begin with the line.
func parse(text string) ([]record, error) {
	var list []record
	open := false
	for n, line := range strings.Split(text, "\n") {
		switch {
		case strings.HasPrefix(line, "#"):
		case strings.TrimSpace(line) == "":
			open = false
		case line[0] != ' ':
			if !open || len(list[len(list)-1].keys) > 0 {
				if open {
					return nil, fmt.Errorf("%d: a pattern stands behind keys, without an empty line between", n+1)
				}
				list = append(list, record{})
				open = true
			}
			last := &list[len(list)-1]
			last.patterns = append(last.patterns, line)
		case !open:
			return nil, fmt.Errorf("%d: a key stands without a pattern", n+1)
		default:
			name, value, ok := strings.Cut(line[1:], "=")
			hex, isKey := strings.CutPrefix(name, "KEYBOARD_KEY_")
			code, err := strconv.ParseUint(hex, 16, 32)
			if !ok || !isKey || err != nil || hex != strings.ToLower(hex) {
				return nil, fmt.Errorf("%d: %q is no key of a board", n+1, line)
			}
			last := &list[len(list)-1]
			last.keys = append(last.keys, assignment{code, value})
		}
	}
	for _, r := range list {
		if len(r.keys) == 0 {
			return nil, fmt.Errorf("1: the pattern %s has no keys", r.patterns[0])
		}
	}
	return list, nil
}
