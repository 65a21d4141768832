// Package scancodemap writes and reads the Windows scancode map: a binary
// registry value by which scan codes are exchanged before any layout sees them. The
// window manager's part of the kernel reads it for each session.
//
// It holds for all users and all boards, on the log-in screen too, not for what a remote
// desktop's client sends; it needs administrator rights and a restart. One key becomes one key or nothing. Pause, whose scan code has three
// bytes, cannot be mapped, nor can Fn. Power, sleep and wake-up keys go past it. Under a layout that has
// AltGr, a key that is made the right Alt is Ctrl and Alt together, as that is.
//
// The file is a registry file of version 5.00: UTF-16LE with a byte order mark
// and CRLF line ends, the only form in which every version reads it alike. A key
// stands for its set 1 make code, 0xE0xx with the E0 prefix, as a little-endian
// word; the value is two zero DWORDs, the number of entries and the terminator
// as a DWORD, an entry of the words new and old for each key, and a zero DWORD.
//
// Sources: Microsoft, "Keyboard and mouse HID client drivers", section "Scan
// code mapper for keyboards"; "Keyboard Input Overview" for the scan codes;
// "How to add, modify, or delete registry subkeys and values by using a .reg
// file".
package scancodemap

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io/fs"
	"strconv"
	"strings"

	"golang.org/x/text/encoding/unicode"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

const (
	path    = "scancodemap/leitstand.reg"
	header  = "Windows Registry Editor Version 5.00"
	regKey  = `HKEY_LOCAL_MACHINE\SYSTEM\CurrentControlSet\Control\Keyboard Layout`
	regName = "Scancode Map"
)

// Mechanism is the driver stage of Windows.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "scancodemap", Stage: mechanism.Kernel, Evidence: mechanism.Parsed,
		Basis: "Wine's registry editor imported it and gave back the same bytes",
		When:  mechanism.Restart, Takes: "after a restart", Everyone: true,
	}
}

// Serves says whether the machine runs Windows.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.Windows }

// Take says how well a binding lands in the scancode map.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if !mechanism.Plain(b) {
		return mechanism.Offer{}
	}
	if b.Level != behaviour.Position {
		return mechanism.Offer{}
	}
	var to plan
	var ok bool
	var why reason.List
	if to.from, ok = b.Chord.Key.Scancode(); !ok {
		return mechanism.Offer{Why: reason.NoScanCodeToMap.Of(b.Chord.Key)}
	}
	if b.Chord.Key.Section() == keys.System {
		return mechanism.Offer{Why: reason.DriverTakes.Of(b.Chord.Key)}
	}
	switch b.Effect.Kind {
	case behaviour.Modifier:
		if m.OwnAltGr {
			return mechanism.Offer{} // which the layout has
		}
		if b.Effect.Mods != keys.Ctrl|keys.Alt || !m.HasAltGr() {
			return mechanism.Offer{Verdict: mechanism.NeedsAgent, Why: reason.WindowsNoHyper.Of()}
		}
		to.code, why = altGr, reason.WindowsAltGrHyper.Of()
	case behaviour.Becomes:
		if to.code, ok = b.Effect.Key.Scancode(); !ok {
			return mechanism.Offer{Why: reason.NoScanCodeToSend.Of(b.Effect.Key)}
		}
	case behaviour.Nothing:
	default:
		return mechanism.Offer{}
	}
	switch {
	case b.Board != "":
		return mechanism.Offer{Verdict: mechanism.NeedsAgent, Why: reason.MapForAllBoards.Of()}
	case !m.Admin:
		return mechanism.Offer{Why: reason.NoAdministrator.Of("the scancode map")}
	}
	if usage, ok := b.Chord.Key.HID(); ok && usage>>16 == 0x0C {
		why = why.And(reason.MediaKeysPast.Of()...)
	}
	o := mechanism.Offer{Verdict: mechanism.Exact, Why: why, Plan: to}
	if len(why) > 0 {
		o.Verdict = mechanism.Limited
	}
	return o
}

// altGr is the scan code of the right Alt, which is Ctrl and Alt together under a layout that has AltGr.
const altGr = 0xE038

// The two scan codes of PrintScreen: the second one comes with Alt, on boards of the PS/2 kind.
const (
	printScreen = 0xE037
	withAlt     = 0x54
)

// plan is the scan codes of a key and of what it is to be, 0 for nothing.
type plan struct{ from, code int }

// Write makes the registry file.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	value := make([]byte, 8)
	entries := len(list) + 1
	for _, b := range list {
		if b.Plan.(plan).from == printScreen {
			entries++
		}
	}
	value = binary.LittleEndian.AppendUint32(value, uint32(entries))
	var clear []string
	for _, b := range list {
		clear = append(clear, b.String())
		to := b.Plan.(plan)
		value = binary.LittleEndian.AppendUint16(value, uint16(to.code))
		value = binary.LittleEndian.AppendUint16(value, uint16(to.from))
		if to.from == printScreen {
			value = binary.LittleEndian.AppendUint16(value, uint16(to.code))
			value = binary.LittleEndian.AppendUint16(value, withAlt)
		}
	}
	value = binary.LittleEndian.AppendUint32(value, 0)
	return mechanism.Changed([]change.Change{
		change.Setting{
			About: change.About{Serves: mechanism.Presses(list), In: path, Everyone: true,
				Says: "As an administrator, set the scancode map. Keys of a map that is there already, and of which the " +
					"mapping says nothing, stay in it; what was there is saved for the way back.",
				Unsays: "As an administrator, have the registry as it was.",
			},
			Store: change.Registry, Key: regKey + ":" + regName, To: change.Bytes(value), Label: strings.Join(clear, "\n"),
			Merged: change.Scancodes,
		},
		change.Hand{Ends: change.EndsMachine}, // the map is read at start only
	}), nil
}

// Read reads the registry file.
func (Mechanism) Read(_ *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	data, err := fs.ReadFile(fsys, path)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	value, err := registryValue(data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	list, err := parseMap(value)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	return list, nil
}

// registryValue finds the bytes of the scancode map in a registry file.
func registryValue(data []byte) ([]byte, error) {
	if !bytes.HasPrefix(data, []byte{0xFF, 0xFE}) {
		return nil, errors.New("not UTF-16LE text with a byte order mark")
	}
	text, err := unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(data)
	if err != nil {
		return nil, err
	}
	lines := strings.Split(strings.ReplaceAll(string(text), "\r\n", "\n"), "\n")
	if lines[0] != "Windows Registry Editor Version 5.00" {
		return nil, errors.New("the first line is not that of a registry file of version 5.00")
	}
	return valueIn(lines[1:], func(key string) bool { return strings.EqualFold(key, regKey) }, func(line string) error {
		return fmt.Errorf("not part of a scancode map: %s", line)
	})
}

// valueIn finds the bytes of the scancode map in the lines of a registry file; other lines
// are handed to other.
func valueIn(lines []string, ours func(key string) bool, other func(line string) error) ([]byte, error) {
	key := ""
	for i := 0; i < len(lines); i++ {
		line := lines[i]
		for strings.HasSuffix(line, `\`) && i+1 < len(lines) {
			i++
			line = strings.TrimSuffix(line, `\`) + strings.TrimSpace(lines[i])
		}
		switch {
		case strings.HasPrefix(line, "[") && strings.HasSuffix(line, "]"):
			key = line[1 : len(line)-1]
		case ours(key) && strings.HasPrefix(strings.ToLower(line), `"scancode map"=hex:`):
			_, hex, _ := strings.Cut(line, ":")
			var value []byte
			for part := range strings.SplitSeq(hex, ",") {
				c, err := strconv.ParseUint(strings.TrimSpace(part), 16, 8)
				if err != nil {
					return nil, fmt.Errorf("%q is no byte", part)
				}
				value = append(value, byte(c))
			}
			return value, nil
		case strings.TrimSpace(line) != "" && !strings.HasPrefix(line, ";"):
			if err := other(line); err != nil {
				return nil, err
			}
		}
	}
	return nil, errors.New("no scancode map in it")
}

func parseMap(value []byte) ([]mechanism.Binding, error) {
	if len(value) < 16 || len(value)%4 != 0 {
		return nil, fmt.Errorf(
			"a scancode map has at least 16 bytes and is made of DWORDs; this has %d bytes", len(value),
		)
	}
	word := func(i int) uint16 { return binary.LittleEndian.Uint16(value[i:]) }
	dword := func(i int) uint32 { return binary.LittleEndian.Uint32(value[i:]) }
	n := int(dword(8))
	switch {
	case dword(0) != 0 || dword(4) != 0:
		return nil, errors.New("version and flags are not zero")
	case len(value) != 12+4*n:
		return nil, fmt.Errorf("it announces %d entries and has %d", n, (len(value)-12)/4)
	case dword(len(value)-4) != 0:
		return nil, errors.New("the terminating entry is not zero")
	}
	var list []mechanism.Binding
	for i := 12; i < len(value)-4; i += 4 {
		if word(i+2) == 0x54 { // with Alt, PrintScreen's
			continue
		}
		from, ok := keys.ByScancode(int(word(i + 2)))
		if !ok {
			return nil, fmt.Errorf("no key has the scan code %04X", word(i+2))
		}
		e := behaviour.Effect{Kind: behaviour.Nothing}
		if code := int(word(i)); code != 0 {
			if to, ok := keys.ByScancode(code); ok {
				e = behaviour.Effect{Kind: behaviour.Becomes, Key: to}
			} else {
				e = behaviour.Effect{Kind: behaviour.Other, Words: fmt.Sprintf("sends the unknown scan code %04X", code)}
			}
		}
		list = append(list, mechanism.Binding{Chord: keys.Chord{Key: from}, Effect: e})
	}
	behaviour.Sort(list)
	return list, nil
}
