package intent

import (
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
)

// LayerKey is how a layer of a machine is switched.
type LayerKey struct {
	Layer string
	Key   keys.Key
	How   behaviour.Switch
}

// LayerState is what of a keyboard layout of macOS or Windows can be a layer.
type LayerState uint8

// The states.
const (
	NoState     LayerState = iota
	OptionState            // on a Mac, while an Option key is held
	CapsState              // on a Mac, while CapsLock is on
	BitState               // on Windows, while a key is held that is a modifier of the layout's own
	DeadState              // after a dead key
)

// LayerState says which state of a machine's keyboard layouts a layer is, and what switches it. On a Mac the
// first layer that a key holds is that of the Option keys, since a layout has no further modifier, and the
// first that CapsLock switches is that of CapsLock; on Windows the first that a key holds has a modifier of
// its own. Layers for one press are behind a dead key, which is a key that types.
func (m *Machine) LayerState(layer string) (LayerKey, LayerState) {
	mac := m.System == machine.MacOS
	if !mac && m.System != machine.Windows {
		return LayerKey{}, NoState
	}
	held, locked := false, false
	for _, on := range m.LayerKeys {
		_, usage := on.Key.HID()
		_, code := on.Key.Scancode()
		is := NoState
		switch {
		case mac && on.How == behaviour.While && !held && usage && on.Key.Section() != keys.Mouse:
			held, is = true, OptionState
		case !mac && on.How == behaviour.While && !held && code:
			held, is = true, BitState
		case mac && on.How == behaviour.Toggle && !locked && on.Key.String() == "CapsLock":
			locked, is = true, CapsState
		case on.How == behaviour.Once && on.Key.Section() == keys.Writing:
			is = DeadState
		}
		if on.Layer == layer {
			return on, is
		}
	}
	return LayerKey{}, NoState
}

// Apart says whether two boards of the machine have no identity in common.
func (m *Machine) Apart(a, b string) bool {
	any := machine.BoardID{Bus: machine.AnyExternal}
	for _, one := range m.Boards {
		for _, other := range m.Boards {
			if one.Name == a && other.Name == b && (slices.Contains(one.IDs, any) && other.External() ||
				slices.ContainsFunc(one.IDs, func(id machine.BoardID) bool { return slices.Contains(other.IDs, id) })) {
				return false
			}
		}
	}
	return true
}

// LayerOf is the layer that is a state of the machine's layouts, if there is one.
func (m *Machine) LayerOf(state LayerState) (on LayerKey, ok bool) {
	for _, l := range m.LayerKeys {
		if of, is := m.LayerState(l.Layer); is == state {
			return of, true
		}
	}
	return LayerKey{}, false
}

// InOptionLayer is what a file says of a chord: also of the key in the layer that is the state of the Option
// keys, where the machine has one. The file does not tell the two apart, so that both are kept by it.
func (m *Machine) InOptionLayer(b behaviour.Binding) []behaviour.Binding {
	layer, ok := m.LayerOf(OptionState)
	if !ok || b.Level != behaviour.Hotkey || b.Chord.Mods&^keys.Shift != keys.Alt {
		return []behaviour.Binding{b}
	}
	b.Kept = true
	if b.Chord.Mods.Has(keys.Shift) {
		return []behaviour.Binding{b}
	}
	in := b
	in.Level, in.Layer, in.Chord.Mods = behaviour.Position, layer.Layer, 0
	return []behaviour.Binding{b, in}
}
