package land

import (
	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// The constraints of a Mac.

// chordsOfOptionLayer are the keys of a layer that is the state of a Mac's Option keys, where the chord that
// they are has a meaning of its own.
func chordsOfOptionLayer(b *Landed) (list []strike) {
	layer, ok := b.Machine.LayerOf(intent.OptionState)
	if !ok {
		return nil
	}
	chords := map[keys.Key]int{}
	for i := range b.Landings {
		l := &b.Landings[i]
		if c := l.Binding.Chord; l.Mechanism != nil && l.Binding.Level == behaviour.Hotkey &&
			len(l.Binding.Apps) == 0 &&
			c.Mods&^keys.Shift == keys.Alt {
			chords[c.Key] = i + 1
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		if by := chords[l.Binding.Chord.Key]; l.Mechanism != nil && l.Binding.Layer == layer.Layer && by > 0 {
			why := reason.MacChordTaken.Of(b.Landings[by-1].Binding.Chord)
			list = append(list, strike{at: i, why: why, by: by - 1})
		}
	}
	return list
}

// inOptionLayer says whether a press landed as a chord that stands for the key of a layer, on a Mac.
func (l *Landing) inOptionLayer(b *Landed) bool {
	_, is := b.Machine.LayerState(l.Binding.Layer)
	return l.Mechanism != nil && l.Binding.Layer != "" && is == intent.OptionState
}

// whole is a mechanism whose place for all users leaves none for the user's own.
type whole interface{ OnePlace() }

// placesForAll are what is for all users where the same mechanism has something for this user only.
func placesForAll(b *Landed) (list []strike) {
	own := map[mechanism.Mechanism]int{}
	for i := range b.Landings {
		l := &b.Landings[i]
		if _, is := l.Mechanism.(whole); is && !l.Offer.ForAll {
			own[l.Mechanism] = i + 1
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		if by := own[l.Mechanism]; by > 0 && l.Offer.ForAll {
			why := reason.MacProfileWhole.Of(b.Landings[by-1].Binding.Press())
			list = append(list, strike{at: i, why: why, by: by - 1})
		}
	}
	return list
}

// second is a mechanism of drivers that sees what another one has made of a key.
type second interface{ AfterDriver() }

// modifiersChangedBefore are keys that another driver changes, or makes of others, before this one sees them.
func modifiersChangedBefore(b *Landed) (list []strike) {
	for i := range b.Landings {
		l := &b.Landings[i]
		if _, is := l.Mechanism.(second); !is {
			continue
		}
		for j := range b.Landings {
			o := &b.Landings[j]
			_, also := o.Mechanism.(second)
			k, e := l.Binding.Chord.Key, o.Binding.Effect
			if also || !o.at(mechanism.Kernel) || o.Binding.Level != behaviour.Position || o.Binding.Board != "" &&
				o.Binding.Board != l.Binding.Board && b.Machine.Apart(o.Binding.Board, l.Binding.Board) {
				continue
			}
			if option := e.Kind == behaviour.Layers && k.String() == "AltRight"; o.Binding.Chord.Key == k ||
				e.Key == k ||
				option {
				why := reason.ChangedBefore.Of(o.Binding.Chord.Key, e)
				list = append(list, strike{at: i, why: why, by: j})
				break
			}
		}
	}
	return list
}

// chordsAlikeOnMac are chords of a layout with AltGr where the same one with Option has a meaning of its own, or
// is the key of a layer.
func chordsAlikeOnMac(b *Landed) (list []strike) {
	if b.Machine.System != machine.MacOS {
		return nil
	}
	option := map[keys.Chord]int{}
	for i := range b.Landings {
		if l := &b.Landings[i]; l.Mechanism != nil && l.Binding.Level == behaviour.Hotkey &&
			l.Binding.Chord.Mods.Has(keys.Alt) {
			option[l.Binding.Chord] = i + 1
		}
	}
	layer, held := b.Machine.LayerOf(intent.OptionState)
	for i := range b.Landings {
		l := &b.Landings[i]
		if held && l.inOptionLayer(b) && l.Binding.Layer == layer.Layer {
			option[keys.Chord{Mods: keys.Alt, Key: l.Binding.Chord.Key}] = i + 1
			option[keys.Chord{Mods: keys.Alt | keys.Shift, Key: l.Binding.Chord.Key}] = i + 1
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		c := l.Binding.Chord
		same := keys.Chord{Mods: c.Mods&^keys.AltGr | keys.Alt, Key: c.Key}
		if by := option[same]; l.at(mechanism.Layout) && l.Binding.Level == behaviour.Hotkey &&
			c.Mods.Has(keys.AltGr) &&
			by > 0 {
			list = append(list, strike{at: i, why: reason.MacChordTaken.Of(same), by: by - 1})
		}
	}
	return list
}
