// Package modifierpanel writes and reads what the panel Modifier Keys of macOS holds for a keyboard: which
// modifier a modifier acts as.
//
// It is a preference of the user for this machine only, one key for each model of board, named by its vendor,
// its product and its country code, in decimal, the last mostly 0: com.apple.keyboard.modifiermapping.V-P-0.
// Its value is an array of pairs of HID usages, each side of a modifier a pair of its own. The system reads it
// at log-in, and when a board is plugged in, so that it outlasts that, and needs no job.
//
// A key comes here after the HID mapping: what that makes of a key, this sees. Built-in boards have a name of
// another kind, which is not known beforehand.
//
// Sources: the manual page defaults(1); Apple, "Change the behavior of the modifier keys"; TN2450 for the names
// in a pair and the usages.
package modifierpanel

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"slices"
	"strconv"
	"strings"

	"howett.net/plist"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// Mechanism is the panel.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "modifierpanel", Stage: mechanism.Kernel, Evidence: mechanism.Documented,
		Basis: "public documentation; the steps run against stand-ins",
		When:  mechanism.LogIn, Takes: "at log-in, or when the board is plugged in again",
	}
}

// Serves says whether the machine is a Mac.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.MacOS }

// AfterDriver says that the HID mapping comes before.
func (Mechanism) AfterDriver() {}

// can are the keys that the panel knows, and what it makes them.
var (
	can = strings.Fields("CapsLock ControlLeft ControlRight AltLeft AltRight MetaLeft MetaRight")
	to  = append(slices.Clone(can), "Escape")
)

// Take says whether a press is one of a modifier, on a board that the panel can name.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if !mechanism.Plain(b) || b.Level != behaviour.Position || b.Effect.Kind != behaviour.Becomes || b.Everyone ||
		!slices.Contains(can, b.Chord.Key.String()) || !slices.Contains(to, b.Effect.Key.String()) {
		return mechanism.Offer{}
	}
	at := slices.IndexFunc(m.Boards, func(o *machine.Board) bool { return o.Name == b.Board })
	if at < 0 || !m.Boards[at].External() {
		return mechanism.Offer{}
	}
	src, _ := b.Chord.Key.HID()
	dst, _ := b.Effect.Key.HID()
	return mechanism.Offer{Verdict: mechanism.Exact, Plan: map[string]any{source: wide(src), target: wide(dst)}}
}

// The names in a pair.
const (
	source = "HIDKeyboardModifierMappingSrc"
	target = "HIDKeyboardModifierMappingDst"
)

// wide is a usage with its page in the upper half.
func wide(usage int) uint64 { return uint64(usage)>>16<<32 | uint64(usage)&0xFFFF }

const (
	compiled = "modifierpanel/NSGlobalDomain.plist"
	prefix   = "com.apple.keyboard.modifiermapping."
)

// Write makes a list for each board.
func (Mechanism) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	pairs, serves := map[string][]any{}, map[string][]string{}
	for _, b := range list {
		for _, board := range m.Boards {
			for _, id := range board.IDs {
				if board.Name == b.Board {
					key := fmt.Sprintf("%s%d-%d-0", prefix, id.Vendor, id.Product)
					pairs[key] = append(pairs[key], b.Plan)
					serves[key] = append(serves[key], b.Press())
				}
			}
		}
	}
	var changes []change.Change
	for _, key := range slices.Sorted(maps.Keys(pairs)) {
		changes = append(changes, change.Setting{
			About: change.About{
				Serves: serves[key], In: compiled,
				Says: "Set what the panel Modifier Keys has for these boards, in place of what it had; then log out and in, " +
					"or plug the board in anew. The last number of a key is the board's country code: if `hidutil list` shows " +
					"another one than 0, choose the keys in the panel instead.",
				Unsays: "Have the panel Modifier Keys as it was; then log out and in.",
			},
			Store: change.Defaults, Key: change.HostDomain + "NSGlobalDomain:" + key, To: change.PropertyList(pairs[key]),
		})
	}
	return mechanism.Changed(changes), nil
}

// Read reads what the panel of a machine's folder holds.
func (t Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, compiled)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	of, err := models(text)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", compiled, err)
	}
	var list []mechanism.Binding
	for _, board := range m.Boards {
		first := true
		for _, id := range board.IDs {
			does, ok := of[model{id.Vendor, id.Product}]
			if !ok || !board.External() {
				continue
			}
			if board := bindings(board.Name, does); first {
				list, first = append(list, board...), false
			} else if !slices.EqualFunc(board, list[len(list)-len(board):], func(a, b mechanism.Binding) bool {
				return a.String() == b.String()
			}) {
				return nil, fmt.Errorf("%s: the models of one board differ", compiled)
			}
		}
	}
	behaviour.Sort(list)
	return list, nil
}

// model is a board as the panel tells it from others.
type model struct{ vendor, product uint16 }

// models are the pairs of each model in a property list.
func models(text []byte) (map[model]map[keys.Key]keys.Key, error) {
	var domain map[string]any
	if _, err := plist.Unmarshal(text, &domain); err != nil {
		return nil, err
	}
	found := map[model]map[keys.Key]keys.Key{}
	for name, value := range domain {
		numbers, ok := strings.CutPrefix(name, prefix)
		if !ok {
			continue
		}
		parts := strings.Split(numbers, "-")
		vendor, err1 := strconv.ParseUint(parts[0], 10, 16)
		product, err2 := strconv.ParseUint(strings.Join(parts[1:min(2, len(parts))], ""), 10, 16)
		pairs, isList := value.([]any)
		if err1 != nil || err2 != nil || len(parts) != 3 || !isList {
			continue // a built-in board's, of another kind
		}
		does := map[keys.Key]keys.Key{}
		for _, p := range pairs {
			of, _ := p.(map[string]any)
			src, ok1 := keyOf(of[source])
			dst, ok2 := keyOf(of[target])
			if !ok1 || !ok2 {
				return nil, fmt.Errorf("%s: no keys have the usages of %v", name, p)
			}
			does[src] = dst
		}
		found[model{uint16(vendor), uint16(product)}] = does
	}
	return found, nil
}

// keyOf is the key of a usage.
func keyOf(v any) (keys.Key, bool) {
	n, ok := v.(uint64)
	if !ok || n>>32 > 0xFFFF || n&0xFFFFFFFF > 0xFFFF {
		return keys.None, false
	}
	return keys.ByHID(int(n>>32<<16 | n&0xFFFF))
}

// bindings are what the keys of a board do, in the order of the keys.
func bindings(board string, does map[keys.Key]keys.Key) (list []mechanism.Binding) {
	for _, k := range slices.Sorted(maps.Keys(does)) {
		list = append(list, mechanism.Binding{
			Board: board, Chord: keys.Chord{Key: k}, Effect: behaviour.Effect{Kind: behaviour.Becomes, Key: does[k]},
		})
	}
	return list
}

// For is a Mac.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.MacOS} }

// Knows says whether a file is an export of preferences in which the panel has something.
func (Mechanism) Knows(_ string, text []byte) bool {
	return bytes.Contains(text, []byte(prefix))
}

// Import reads an export of the preferences of a user for one machine: each model is a board of its own.
func (Mechanism) Import(_ *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	of, err := models(text)
	if err != nil {
		return got, err
	}
	byModel := func(a, b model) int { return int(a.vendor)<<16 + int(a.product) - int(b.vendor)<<16 - int(b.product) }
	for _, id := range slices.SortedFunc(maps.Keys(of), byModel) {
		name := fmt.Sprintf("board-%04x-%04x", id.vendor, id.product)
		got.Boards = append(got.Boards, &machine.Board{
			Name: name, Legends: "pc",
			IDs: []machine.BoardID{{Bus: machine.USB, Vendor: id.vendor, Product: id.product}},
		})
		got.Bindings = append(got.Bindings, bindings(name, of[id])...)
	}
	return got, nil
}
