package mapping

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/keys"
	"leitstand/core/machine"
)

var shapeWords = []string{"ansi", "iso", "jis", "full", "tenkeyless", "compact", "laptop", "split"}

func (b *block) board() {
	if b.tooMany {
		return
	}
	d := &Board{Range: b.head()}
	for _, t := range b.texts("ids") {
		id, ok := b.boardID(t)
		if ok && slices.Contains(d.IDs, id) {
			b.add(t.Range, "duplicate", fmt.Sprintf("%q stands twice", t.Value), "name it once")
		} else if ok {
			d.IDs = append(d.IDs, id)
		}
	}
	if !b.has("ids") {
		b.add(b.head(), "missing-attribute", "the board does not say by what it is known",
			"add ids, such as ids = [\"usb:1209:0001\"], [\"built-in\"] or [\"any external\"]")
	}
	for _, t := range b.texts("shape") {
		switch {
		case slices.Contains(d.Shape, t.Value):
			b.add(t.Range, "duplicate", fmt.Sprintf("%q stands twice", t.Value), "name it once")
		case slices.Contains(shapeWords, t.Value):
			d.Shape = append(d.Shape, t.Value)
		case strings.Contains(t.Value, " "):
			b.add(t.Range, "unknown-value", fmt.Sprintf("%q is no shape", t.Value), "shape is a list: "+asList(t.Value))
		default:
			b.unknown(t, "unknown-value", fmt.Sprintf("%q is no shape", t.Value), shapeWords)
		}
	}
	d.Legends = b.word("legends", "pc", []string{"pc", "mac"})
	for _, k := range b.keyList(b.texts("lacks")) {
		d.Lacks = append(d.Lacks, k.Key)
	}
	for _, k := range b.keyList(b.texts("broken")) {
		d.Broken = append(d.Broken, k.Key)
	}
	for _, p := range b.pairs("sends") {
		from, ok1 := b.key(p[0])
		to, ok2 := b.key(p[1])
		if ok1 && ok2 {
			if d.Sends == nil {
				d.Sends = map[keys.Key]keys.Key{}
			}
			d.Sends[from.Key] = to.Key
		}
	}
	name, ok := b.name(b.seenPlace)
	if !ok {
		return
	}
	if !b.place(name, len(b.m.Boards)) {
		return
	}
	d.Name = name
	b.m.Boards = append(b.m.Boards, d)
	b.m.boards[name] = d
}

func (b *block) boardID(t Text) (BoardID, bool) {
	id, ok := machine.ParseBoardID(t.Value)
	if !ok {
		b.add(
			t.Range,
			"bad-id",
			fmt.Sprintf("%q is no identity of a board", t.Value),
			"write \"usb:VVVV:PPPP\" or \"bluetooth:VVVV:PPPP\" with the four hexadecimal digits of vendor and "+
				"product, or \"built-in\", or \"any external\"",
		)
	}
	return id, ok
}
