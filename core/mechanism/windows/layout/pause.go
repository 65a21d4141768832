package layout

import (
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/keys/library"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Pause has a scan code of three bytes, which the scancode map cannot have. A layout gives it any virtual key, and its
// own to any other key; of keys that type we leave both, since layers would have to know of it. A board sends it as
// pressed and let go at once, so it holds nothing.
const pauseCode, pauseVK = 0x1D, 0x13

func isPause(k keys.Key) bool { return k != keys.None && k.String() == "Pause" }

// ofPause is a rule that makes another key of Pause, or Pause of one that types nothing; nil for others.
func ofPause(m *mechanism.Machine, b mechanism.Binding) (*plan, reason.List) {
	k, to := b.Chord.Key, b.Effect.Key
	if b.Level != behaviour.Position || b.Layer != "" || !isPause(k) && !isPause(to) {
		return nil, nil
	}
	standard := standardOf(m.Layouts[0])
	switch becomes := b.Effect.Kind == behaviour.Becomes; {
	case isPause(k) && b.Effect.Kind == behaviour.Nothing:
		to = keys.None
	case isPause(k) && becomes && m.IsModifier(to) && !strings.HasSuffix(to.String(), "Lock"):
		return nil, reason.PauseHoldsNothing.Of(to)
	case isPause(k) && becomes && silent(to) && entry(standard, to) != nil:
	case becomes && isPause(to) && silent(k) && !m.IsModifier(k) && entry(standard, k) != nil:
	default:
		return nil, nil
	}
	return &plan{key: true, as: to}, beside(m).And(reason.LayoutKeepsScanCode.Of()...)
}

// silent says whether a key types nothing, whatever is held or on.
func silent(k keys.Key) bool { return !types(k) && k.Section() != keys.Numpad }

func pauseAlone() []library.Prefixed { return []library.Prefixed{{Code: pauseCode, VK: pauseVK}} }

// entry is where a library has the virtual key of a key, nil where it has none.
func entry(l *library.Library, k keys.Key) *uint16 {
	if isPause(k) {
		return codeIn(l.E1, pauseCode)
	}
	switch code, ok := k.Scancode(); {
	case !ok:
		return nil
	case code&0xFF00 == 0xE000:
		return codeIn(l.E0, byte(code))
	case code < len(l.Scancodes) && l.Scancodes[code] != library.None:
		return &l.Scancodes[code]
	}
	return nil
}

func codeIn(list []library.Prefixed, code byte) *uint16 {
	at := slices.IndexFunc(list, func(p library.Prefixed) bool { return p.Code == code })
	if at < 0 {
		return nil
	}
	return &list[at].VK
}

// exchange gives a key the virtual key of another one, or none.
func (t *maker) exchange(k, to keys.Key) {
	vk := uint16(library.None)
	if to != keys.None {
		vk = *entry(t.standard, to)
	}
	*entry(t.Library, k) = vk
}
