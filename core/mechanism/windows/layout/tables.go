package layout

import (
	"cmp"
	"slices"
	"strings"
	"unicode/utf16"

	"leitstand/core/intent"
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

// The virtual keys of what a board sends for Alt and PrintScreen, and for Ctrl and Pause. (winuser.h: VK_SNAPSHOT,
// VK_CANCEL)
const altPrintScreenVK, ctrlPauseVK = 0x2C, 0x100 | 0x03

// maker makes the tables of a layout with what landed in it.
type maker struct {
	*library.Library
	standard *library.Library // the virtual keys that keys have by themselves
	layout   *keys.Layout
	m        *mechanism.Machine
	rows     map[keys.Key]*library.Row
	words    map[string]string // abbreviations behind the Compose key, and what they give
	begun    []string          // what they begin with, "" first
	// functions is how many function keys type.
	functions int
}

func makeTables(m *mechanism.Machine, l *keys.Layout, list []mechanism.Taken) *library.Library {
	t := &maker{
		Library: &library.Library{
			Modifiers: []library.Modifier{
				{VK: 0x10, Bit: library.ShiftBit}, {VK: 0x11, Bit: library.CtrlBit}, {VK: 0x12, Bit: library.AltBit},
				{VK: layerVK(l), Bit: library.KanaBit},
			},
			Columns: columns, Accents: map[uint16]string{}, AltGr: l.TypesWith(keys.AltGr),
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
	s := &library.Library{}
	(&maker{Library: s, layout: l}).scancodes()
	return s
}

// scancodes gives each scan code its virtual key.
func (t *maker) scancodes() {
	t.Scancodes = slices.Repeat([]uint16{library.None}, 0x7F)
	t.Scancodes[0x54] = altPrintScreenVK
	t.E0, t.E1 = []library.Prefixed{{Code: 0x46, VK: ctrlPauseVK}}, pauseAlone()
	for _, k := range keys.All() {
		code, has := k.Scancode()
		vk, ok := t.layout.FlaggedVK(k)
		switch {
		case !has || !ok:
		case code&0xFF00 == 0xE000:
			t.E0 = append(t.E0, library.Prefixed{Code: byte(code), VK: vk})
		case code < len(t.Scancodes):
			t.Scancodes[code] = vk
		}
	}
	slices.SortFunc(t.E0, func(a, b library.Prefixed) int { return cmp.Compare(a.Code, b.Code) })
}

// row is what a key types under the layout itself, in the layer as well.
func (t *maker) row(k keys.Key, vk byte) *library.Row {
	r := &library.Row{VK: vk}
	for s := range states {
		r.Cells = append(r.Cells, t.bare(k, s))
	}
	r.Cells = append(r.Cells, library.Cell{Unit: uint16(t.layout.Control(k))})
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
	if at := entry(t.Library, k); r == nil && at != nil { // a function key: programs would act on its own virtual key
		r = &library.Row{VK: keys.UnassignedVK(t.functions), Cells: make([]library.Cell, int(states)+1)}
		t.functions++
		*at, t.rows[k] = uint16(r.VK), r
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

// others are the rows of keys that type the same with Shift and in the layer: those of control characters, and of the
// numeric keypad.
func (t *maker) others() {
	add := func(vk byte, unit, control rune) {
		if unit == 0 || slices.ContainsFunc(t.Rows, func(r library.Row) bool { return r.VK == vk }) {
			return
		}
		cells := slices.Repeat([]library.Cell{{Unit: uint16(unit)}}, int(states))
		for s := altGr; s < layer; s++ {
			cells[s] = library.Cell{}
		}
		t.Rows = append(t.Rows, library.Row{VK: vk, Cells: append(cells, library.Cell{Unit: uint16(control)})})
	}
	add(ctrlPauseVK&0xFF, 0x03, 0x03)
	for _, k := range keys.All() {
		vk, ok := t.layout.FlaggedVK(k)
		if alone, control, types := keys.WindowsControls(byte(vk)); ok && types {
			add(byte(vk), alone, control)
		}
	}
	var digits []library.Row
	for _, k := range keys.All() {
		vk, ok := t.layout.FlaggedVK(k)
		switch {
		case !ok || k.Section() != keys.Numpad:
		case vk&keys.NumpadVK == 0:
			add(byte(vk), t.layout.WindowsKeypad(k, false), 0)
		default:
			code, _ := k.VK()
			sign := t.layout.WindowsKeypad(k, true)
			if k.String() == "NumpadDecimal" {
				sign, _ = t.layout.Decimal()
			}
			if row := (library.Row{VK: byte(code), Cells: t.digit(sign)}); k.String() == "NumpadDecimal" {
				add(row.VK, sign, 0)
			} else {
				digits = append(digits, row)
			}
		}
	}
	t.Rows = append(t.Rows, digits...)
}

// digit are the cells of a digit of the keypad. The system's layouts have one column for it, and find a digit's key by
// what comes before; ours has more where there is a layer.
func (t *maker) digit(sign rune) []library.Cell {
	cells := []library.Cell{{Unit: uint16(sign)}}
	if _, held := t.m.LayerOf(intent.BitState); !held {
		return cells
	}
	cells = append(cells, make([]library.Cell, states)...)
	cells[layer] = cells[0]
	return cells
}

// dead is what accents and characters give: by Unicode's composition for those of dead keys, and of one-shot
// layers what landed; another key types its own there.
func (t *maker) dead(list []mechanism.Taken) {
	var units, accents []uint16
	for _, r := range t.Rows {
		for _, c := range r.Cells[:min(len(r.Cells), int(states))] {
			switch {
			case c.Unit != 0 && !slices.Contains(units, c.Unit):
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
