package intent

import (
	"maps"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
)

// row is the keys from the corner to the space bar on both sides of a board.
type row struct{ left, right [3]string }

// rows are the modifiers' places by what is printed on a board. The third key of
// a PC board's right side is its menu key, which is no modifier.
var rows = map[string]row{
	"pc": {
		left:  [3]string{"ControlLeft", "MetaLeft", "AltLeft"},
		right: [3]string{"ControlRight", "MetaRight", "AltRight"},
	},
	"mac": {
		left:  [3]string{"ControlLeft", "AltLeft", "MetaLeft"},
		right: [3]string{"ControlRight", "AltRight", "MetaRight"},
	},
}

// codes are the keys of each modifier, left and right.
var codes = map[string][2]string{
	"Ctrl": {"ControlLeft", "ControlRight"}, "Alt": {"AltLeft", "AltRight"}, "Meta": {"MetaLeft", "MetaRight"},
}

// hands expands into remaps that put the modifiers where the hands expect them:
// those for a board as the system's machines have it, and for each board of the
// machine that differs.
func (r *resolver) hands(rule *mapping.Hands) []Entry {
	legends := "pc"
	if r.Machine.System == machine.MacOS || r.Machine.System == machine.IPadOS {
		legends = "mac"
	}
	every := r.moves(rule, legends)
	list := entries(rule, "", every)
	for _, b := range r.Machine.Boards {
		moved := maps.Clone(every)
		differs := b.Legends != legends
		for _, o := range r.Machine.Boards {
			if o.Legends != b.Legends && b.External() && wide(o) > 0 { // what is said of that one is for this as well
				maps.Copy(moved, r.moves(rule, o.Legends))
				differs = true
			}
		}
		if !differs {
			continue
		}
		own := r.moves(rule, b.Legends)
		for from := range moved {
			if _, ok := own[from]; !ok {
				own[from] = from // stays as it is on this board
			}
		}
		list = append(list, entries(rule, b.Name, own)...)
	}
	return list
}

func entries(rule *mapping.Hands, board string, moves map[keys.Key]keys.Key) []Entry {
	var list []Entry
	for _, k := range keys.All() {
		if to, ok := moves[k]; ok {
			e := position(rule, k, rule.Range, behaviour.Effect{Kind: behaviour.Becomes, Key: to})
			e.Binding.Board = board
			list = append(list, e)
		}
	}
	return list
}

// moves says which key of a board must act as which.
func (r *resolver) moves(rule *mapping.Hands, legends string) map[keys.Key]keys.Key {
	moves := map[keys.Key]keys.Key{}
	move := func(from, to string) {
		f, _ := keys.ByCode(from)
		t, _ := keys.ByCode(to)
		if f != t {
			moves[f] = t
		}
	}
	side := func(places [3]string, right int) {
		if rule.Primary == "" {
			for i, m := range rule.Order {
				move(places[i], codes[m.Value][right])
			}
			return
		}
		place := places[0]
		if rule.Primary == "thumb" {
			place = places[2]
		}
		main := codes["Ctrl"][right]
		if r.Machine.System == machine.MacOS || r.Machine.System == machine.IPadOS {
			main = codes["Meta"][right]
		}
		move(place, main)
		move(main, place)
	}
	side(rows[legends].left, 0)
	if rule.Both {
		side(rows[legends].right, 1)
	}
	return moves
}
