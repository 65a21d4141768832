package layout

import (
	"slices"
	"strings"
	"unicode/utf16"

	"leitstand/core/keys"
	"leitstand/core/keys/library"
	"leitstand/core/mechanism"
)

// The accents of one-shot layers are private characters, one for each, and so are those behind the Compose key,
// one for each that an abbreviation begins with.
const (
	firstLayer   = 0xE900
	layers       = 0x100
	firstCompose = firstLayer + layers
	composing    = 0x400
	privates     = layers + composing
)

// layerVK is the virtual key of the layer's own modifier: VK_OEM_8, as the system's own layouts with such a
// modifier have it, or one that is assigned to nothing where a key of the layout is that. (winuser.h)
func layerVK(l *keys.Layout) byte {
	const oem8, unassigned = 0xDF, 0xE8
	for _, k := range keys.All() {
		if vk, ok := l.VirtualCode(k); ok && vk == oem8 && types(k) {
			return unassigned
		}
	}
	return oem8
}

// The columns of our rows, by the modifiers that are held: those of the states, and behind them that of Ctrl.
var columns = []byte{
	0, 1, 6, library.NoColumn, library.NoColumn, library.NoColumn, 2, 3, 4, 5,
}

// base are the scan codes of keys that no layout moves, with their flags. (kbd.h: T01 …, KBDEXT, KBDMULTIVK,
// KBDSPECIAL, KBDNUMPAD)
var (
	base = map[int]uint16{
		0x01: 0x1B, 0x0E: 0x08, 0x0F: 0x09, 0x1C: 0x0D, 0x1D: 0xA2, 0x2A: 0xA0, 0x36: 0x1A1, 0x37: 0x86A, 0x38: 0xA4,
		0x39: 0x20, 0x3A: 0x14, 0x45: 0x990, 0x46: 0x891, 0x47: 0x624, 0x48: 0x626, 0x49: 0x621, 0x4A: 0x6D, 0x4B: 0x625,
		0x4C: 0x60C, 0x4D: 0x627, 0x4E: 0x6B, 0x4F: 0x623, 0x50: 0x628, 0x51: 0x622, 0x52: 0x62D, 0x53: 0x62E, 0x54: 0x2C,
		0x57: 0x7A, 0x58: 0x7B, 0x76: 0x87,
	}
	prefixed = []library.Prefixed{
		{Code: 0x10, VK: 0x1B1}, {Code: 0x19, VK: 0x1B0}, {Code: 0x1C, VK: 0x10D}, {Code: 0x1D, VK: 0x1A3},
		{Code: 0x20, VK: 0x1AD}, {Code: 0x21, VK: 0x1B7}, {Code: 0x22, VK: 0x1B3}, {Code: 0x24, VK: 0x1B2},
		{Code: 0x2E, VK: 0x1AE}, {Code: 0x30, VK: 0x1AF}, {Code: 0x32, VK: 0x1AC}, {Code: 0x35, VK: 0x16F},
		{Code: 0x37, VK: 0x12C}, {Code: 0x38, VK: 0x1A5}, {Code: 0x46, VK: 0x103}, {Code: 0x47, VK: 0x124},
		{Code: 0x48, VK: 0x126}, {Code: 0x49, VK: 0x121}, {Code: 0x4B, VK: 0x125}, {Code: 0x4D, VK: 0x127},
		{Code: 0x4F, VK: 0x123}, {Code: 0x50, VK: 0x128}, {Code: 0x51, VK: 0x122}, {Code: 0x52, VK: 0x12D},
		{Code: 0x53, VK: 0x12E}, {Code: 0x5B, VK: 0x15B}, {Code: 0x5C, VK: 0x15C}, {Code: 0x5D, VK: 0x15D},
		{Code: 0x5F, VK: 0x15F}, {Code: 0x65, VK: 0x1AA}, {Code: 0x66, VK: 0x1AB}, {Code: 0x67, VK: 0x1A8},
		{Code: 0x68, VK: 0x1A9}, {Code: 0x69, VK: 0x1A7}, {Code: 0x6A, VK: 0x1A6}, {Code: 0x6B, VK: 0x1B6},
		{Code: 0x6C, VK: 0x1B4}, {Code: 0x6D, VK: 0x1B5},
	}
)

// maker makes the tables of a layout with what landed in it.
type maker struct {
	*library.Library
	standard *library.Library // the virtual keys that keys have by themselves
	layout   *keys.Layout
	m        *mechanism.Machine
	rows     map[keys.Key]*library.Row
	words    map[string]string // abbreviations behind the Compose key, and what they give
	begun    []string          // what they begin with, "" first
}

func makeTables(m *mechanism.Machine, l *keys.Layout, list []mechanism.Taken) *library.Library {
	t := &maker{
		Library: &library.Library{
			Modifiers: []library.Modifier{
				{VK: 0x10, Bit: library.ShiftBit}, {VK: 0x11, Bit: library.CtrlBit}, {VK: 0x12, Bit: library.AltBit},
				{VK: layerVK(l), Bit: library.KanaBit},
			},
			Columns: columns, Accents: map[uint16]string{}, AltGr: l.TypesWith(keys.AltGr),
			E0: slices.Clone(prefixed), E1: pauseAlone(),
		},
		layout: l, m: m, rows: map[keys.Key]*library.Row{}, words: map[string]string{}, begun: []string{""},
	}
	for _, b := range list {
		if p := b.Plan.(plan); p.word != "" {
			t.words[p.word] = p.text
			for i := range p.word {
				t.begun = append(t.begun, p.word[:i])
			}
		}
	}
	slices.Sort(t.begun)
	t.begun = slices.Compact(t.begun)
	if t.Names, t.E0Names = l.KeyNames(); t.Names == nil {
		t.Names, t.E0Names = namesOf()
	}
	t.scancodes()
	t.standard = standardOf(l)
	for _, k := range keys.All() {
		if vk, ok := l.VirtualCode(k); ok && types(k) {
			t.rows[k] = t.row(k, vk)
		}
	}
	for _, b := range list {
		t.put(b)
	}
	for _, k := range keys.All() {
		if r := t.rows[k]; r != nil {
			t.Rows = append(t.Rows, *r)
		}
	}
	t.others()
	t.dead(list)
	if slices.ContainsFunc(list, func(b mechanism.Taken) bool { return b.Plan.(plan).hyper }) {
		t.partAltGr()
	}
	return t.Library
}

// standardOf has the virtual keys that keys have by themselves under a layout.
func standardOf(l *keys.Layout) *library.Library {
	s := &library.Library{E0: slices.Clone(prefixed), E1: pauseAlone()}
	(&maker{Library: s, layout: l}).scancodes()
	return s
}

// scancodes gives each scan code its virtual key.
func (t *maker) scancodes() {
	t.Scancodes = slices.Repeat([]uint16{library.None}, 0x7F)
	for code, vk := range base {
		t.Scancodes[code] = vk
	}
	for i := range 10 { // F1 to F10, and F13 to F23
		t.Scancodes[0x3B+i] = uint16(0x70 + i)
	}
	for i := range 11 {
		t.Scancodes[0x64+i] = uint16(0x7C + i)
	}
	for _, k := range keys.All() {
		code, has := k.Scancode()
		if vk, ok := t.layout.VirtualCode(k); has && ok && types(k) && code < len(t.Scancodes) {
			t.Scancodes[code] = uint16(vk)
		}
	}
}

// row is what a key types under the layout itself, in the layer as well.
func (t *maker) row(k keys.Key, vk byte) *library.Row {
	r := &library.Row{VK: vk}
	for s := range states {
		r.Cells = append(r.Cells, t.bare(k, s))
	}
	control := library.Cell{Unit: uint16(t.layout.Control(k))}
	if text, _ := t.layout.Type(keys.TypeState{}, k, 0); !t.layout.Own() && len(text) == 1 &&
		strings.Contains(`[\]`, text) {
		control.Unit = uint16(text[0] & 0x1F)
	}
	r.Cells = append(r.Cells, control)
	if s, ok := t.layout.Symbols(k); ok && strings.Contains(s.Type, "ALPHABETIC") {
		if r.Attributes = library.CapsLock; len(s.Level) > 2 && !strings.Contains(s.Type, "SEMI") {
			r.Attributes |= library.CapsLockAltGr
		}
	}
	return r
}

// bare is what a key has in a state under the layout itself.
func (t *maker) bare(k keys.Key, s state) library.Cell {
	text, after := t.layout.Type(keys.TypeState{}, k, held[s%layer])
	if after.Accents != "" {
		spacing, _ := t.layout.Finish(after, "")
		unit := utf16.Encode([]rune(spacing))[0]
		t.Accents[unit] = "DEAD KEY"
		return library.Cell{Accent: unit}
	}
	if units := utf16.Encode([]rune(text)); len(units) == 1 {
		return library.Cell{Unit: units[0]}
	}
	return library.Cell{}
}

// put has a key do what landed.
func (t *maker) put(b mechanism.Taken) {
	p, k := b.Plan.(plan), b.Chord.Key
	if p.word != "" {
		return // the dead keys' table has it
	}
	if p.hyper {
		*entry(t.Library, k) = rightAlt
		return
	}
	if p.key {
		t.exchange(k, p.as)
		return
	}
	if p.holds {
		code, _ := k.Scancode()
		switch {
		case code&0xFF00 == 0xE000:
			at := slices.IndexFunc(t.E0, func(e library.Prefixed) bool { return int(e.Code) == code&0xFF })
			if at < 0 {
				at = len(t.E0)
				t.E0 = append(t.E0, library.Prefixed{Code: byte(code)})
			}
			t.E0[at].VK = uint16(layerVK(t.layout)) | 0x100
		default:
			t.Scancodes[code] = uint16(layerVK(t.layout))
		}
		delete(t.rows, k)
		return
	}
	r := t.rows[k]
	if vk, ok := t.layout.VirtualCode(k); r == nil && ok { // a function key, which types nothing by itself
		r = &library.Row{VK: vk, Cells: make([]library.Cell, int(states)+1)}
		t.rows[k] = r
	}
	if r == nil {
		return
	}
	for _, s := range p.in {
		if p.waits != "" {
			continue // the dead key's table has it
		}
		units := utf16.Encode([]rune(p.text))
		cell := library.Cell{}
		switch {
		case p.next != "":
			cell.Accent = t.accent(p.next)
		case p.composes:
			cell.Accent = firstCompose
			t.Accents[firstCompose] = "COMPOSE"
		case p.as != keys.None:
			cell = t.bare(p.as, s)
		case len(units) == 1:
			cell.Unit = units[0]
		case len(units) > 1:
			cell.Ligature = true
			t.Ligatures = append(t.Ligatures, library.Ligature{VK: r.VK, Column: int(s), Units: units})
		}
		r.Cells[s] = cell
		if s < altGr {
			r.Attributes &^= library.CapsLock
		} else if s < layer {
			r.Attributes &^= library.CapsLockAltGr
		}
	}
}

// accent is that of a one-shot layer.
func (t *maker) accent(layer string) uint16 {
	at := 0
	for _, on := range t.m.LayerKeys {
		if on.Layer == layer {
			break
		}
		at++
	}
	unit := uint16(firstLayer + at%layers)
	t.Accents[unit] = "LAYER"
	return unit
}

// others are the rows of keys that type the same under every layout.
func (t *maker) others() {
	seven := func(vk byte, unit, control uint16) {
		cells := slices.Repeat([]library.Cell{{Unit: unit}}, int(states))
		for s := altGr; s < layer; s++ {
			cells[s] = library.Cell{}
		}
		t.Rows = append(t.Rows, library.Row{VK: vk, Cells: append(cells, library.Cell{Unit: control})})
	}
	seven(0x08, '\b', 0x7F)
	seven(0x09, '\t', '\t')
	seven(0x0D, '\r', '\n')
	seven(0x1B, 0x1B, 0x1B)
	for _, k := range []string{"NumpadMultiply", "NumpadAdd", "NumpadSubtract", "NumpadDivide", "NumpadDecimal"} {
		key, _ := keys.ByCode(k)
		if vk, ok := key.VK(); ok {
			r := map[string]uint16{"NumpadMultiply": '*', "NumpadAdd": '+', "NumpadSubtract": '-', "NumpadDivide": '/', "NumpadDecimal": '.'}[k]
			if s, ok := t.layout.Symbols(key); ok && k == "NumpadDecimal" {
				if c, typed := keys.KeysymRune(s.Level[len(s.Level)-1]); typed && c < 0x80 {
					r = uint16(c)
				}
			}
			if d := t.layout.Decimal(); d != 0 && k == "NumpadDecimal" {
				r = uint16(d)
			}
			seven(byte(vk), r, 0)
		}
	}
	for i := range 10 {
		t.Rows = append(t.Rows, library.Row{VK: byte(0x60 + i), Cells: []library.Cell{{Unit: uint16('0' + i)}}})
	}
}

// dead is what accents and characters give: by Unicode's composition for those of dead keys, and of one-shot
// layers what landed; another key types its own there.
func (t *maker) dead(list []mechanism.Taken) {
	var units, accents []uint16
	for _, r := range t.Rows {
		for _, c := range r.Cells[:min(len(r.Cells), int(states))] {
			switch {
			case c.Unit >= ' ' && !slices.Contains(units, c.Unit):
				units = append(units, c.Unit)
			case c.Accent != 0 && !slices.Contains(accents, c.Accent):
				accents = append(accents, c.Accent)
			}
		}
	}
	slices.Sort(units)
	slices.Sort(accents)
	of := t.accentsOf()
	if slices.Contains(accents, firstCompose) {
		t.compose(units, accents)
	}
	for _, a := range accents {
		waiting, isAccent := of[a]
		if a == firstCompose {
			continue
		}
		for _, u := range units {
			if isAccent {
				text, _ := t.layout.Finish(keys.TypeState{Accents: waiting}, string(rune(u)))
				if joined := utf16.Encode([]rune(text)); len(joined) == 1 {
					t.Dead = append(t.Dead, library.Dead{Accent: a, Base: u, Result: joined[0]})
				}
				continue
			}
			d := library.Dead{Accent: a, Base: u, Result: u}
			if typed, lands := t.inLayer(list, a, library.Cell{Unit: u}); lands {
				d.Result = typed
			}
			t.Dead = append(t.Dead, d)
		}
		for _, other := range accents {
			_, both := of[other]
			r, joins := t.layout.Result(waiting, rune(other))
			typed, lands := t.inLayer(list, a, library.Cell{Accent: other})
			switch {
			case lands:
				t.Dead = append(t.Dead, library.Dead{Accent: a, Base: other, Result: typed})
			case !isAccent || !both: // of which one is a layer's: the later one waits
				t.Dead = append(t.Dead, library.Dead{Accent: a, Base: other, Result: other, Again: true})
			case joins && !slices.Contains(units, other):
				t.Dead = append(t.Dead, library.Dead{Accent: a, Base: other, Result: uint16(r)})
			}
		}
	}
}

// compose is what follows the Compose key: an abbreviation gives its text, what begins one waits, and all else
// types its own.
func (t *maker) compose(units, accents []uint16) {
	for i, before := range t.begun {
		state := uint16(firstCompose + i)
		for _, u := range units {
			typed := before + string(rune(u))
			d := library.Dead{Accent: state, Base: u, Result: u}
			if text, whole := t.words[typed]; whole {
				d.Result = utf16.Encode([]rune(text))[0]
			} else if at, begins := slices.BinarySearch(t.begun, typed); begins {
				d.Result, d.Again = uint16(firstCompose+at), true
			}
			t.Dead = append(t.Dead, d)
		}
		for _, other := range accents {
			t.Dead = append(t.Dead, library.Dead{Accent: state, Base: other, Result: other, Again: true})
		}
	}
}

// accentsOf are the accents of dead keys by how they stand by themselves.
func (t *maker) accentsOf() map[uint16]string {
	of := map[uint16]string{}
	for _, k := range keys.All() {
		for _, mods := range held {
			if _, after := t.layout.Type(keys.TypeState{}, k, mods); after.Accents != "" && types(k) {
				spacing, _ := t.layout.Finish(after, "")
				of[utf16.Encode([]rune(spacing))[0]] = after.Accents
			}
		}
	}
	return of
}

// inLayer is what a key that has a cell types in a one-shot layer, where something landed on it.
func (t *maker) inLayer(list []mechanism.Taken, accent uint16, cell library.Cell) (unit uint16, lands bool) {
	for _, b := range list {
		p := b.Plan.(plan)
		if p.waits == "" || t.accent(p.waits) != accent {
			continue
		}
		for _, s := range p.in {
			r := t.rows[b.Chord.Key]
			if r == nil || r.Cells[s] != cell && (r.Cells[layer+s] != cell || t.bare(b.Chord.Key, s) != cell) {
				continue // one that is a dead key itself types its own while the held layer's key is held
			}
			if p.as != keys.None {
				return t.bare(p.as, s).Unit, true
			}
			return utf16.Encode([]rune(p.text))[0], true
		}
	}
	return 0, false
}
