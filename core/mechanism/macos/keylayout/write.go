package keylayout

import (
	"fmt"
	"hash/fnv"
	"maps"
	"slices"
	"strings"
	"unicode"

	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
)

// Write makes a layout for each of the machine's.
func (Mechanism) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	if len(list) == 0 {
		return mechanism.Output{}, nil
	}
	folder := "~/Library/Keyboard Layouts/"
	if m.LayoutForAll {
		folder = "/Library/Keyboard Layouts/"
	}
	about := change.About{
		Serves: mechanism.Presses(list), Everyone: m.LayoutForAll, Says: "Copy the keyboard layout.",
		Unsays: "Choose your own layout in the input menu, and delete the file.",
	}
	var changes []change.Change
	var names []string
	for _, l := range m.Layouts {
		text := print(newBoard(l, list), m, title(l.Name))
		about.In = fileOf(l.Name)
		changes = append(
			changes,
			change.File{About: about, Path: folder + strings.TrimPrefix(about.In, "keylayout/"), Data: text},
		)
		names = append(names, "**"+title(l.Name)+"**")
	}
	this := "it"
	if len(names) > 1 {
		this = "one of them"
	}
	changes = append(changes, change.Hand{InTurn: true, About: change.About{
		Serves: mechanism.Presses(list),
		Says: "Log out and in. Then, in Settings, Keyboard, Input Sources, **Edit…**, add with **+**, under " +
			"**Others**, " + strings.Join(names, " and ") + " beside what is there, and choose " + this + " in the input menu. " +
			"Ctrl+Space goes back to your own layout.",
		Unsays: "In Settings, Keyboard, Input Sources, **Edit…**, take " + strings.Join(names, " and ") + " out.",
	}, Lines: []string{`open "x-apple.systempreferences:com.apple.Keyboard-Settings.extension"`}})
	return mechanism.Changed(changes), nil
}

// title is what the input menu calls our layout.
func title(layout string) string { return "Leitstand " + layout }

// fileOf is the file of a layout, below the machine's folder.
func fileOf(layout string) string {
	plain := strings.NewReplacer("(", "-", ")", "").Replace(layout)
	return "keylayout/leitstand-" + plain + ".keylayout"
}

// selects are the sets of modifiers that choose each map: those of the states first, then those of chords.
var selects = []string{
	"", "anyShift caps?", "caps", "anyOption", "anyShift anyOption caps?", "caps anyOption",
	"command anyShift? caps? anyOption?", "anyControl command? anyShift? caps? anyOption?",
}

const withControl = int(states) + 1

// head is how a layout's file begins: XML 1.1, since its texts have control characters.
const head = `<?xml version="1.1" encoding="UTF-8"?>
<!DOCTYPE keyboard SYSTEM "file://localhost/System/Library/DTDs/KeyboardLayout.dtd">
`

// printer spells a board in XML.
type printer struct {
	*board
	text    strings.Builder
	actions []string // each as its elements
}

func print(b *board, m *mechanism.Machine, name string) []byte {
	p := &printer{board: b}
	number := fnv.New32a()
	_, _ = number.Write([]byte(name))
	p.text.WriteString(head)
	p.line(`<keyboard group="126" id="-%d" name="%s" maxout="%d">`, 2+number.Sum32()%32000, escape(name), b.longest())
	p.line(`  <layouts>`)
	p.line(`    <layout first="0" last="207" modifiers="held" mapSet="keys"/>`)
	p.line(`  </layouts>`)
	p.line(`  <modifierMap id="held" defaultIndex="0">`)
	for i, mods := range selects {
		p.line(`    <keyMapSelect mapIndex="%d"><modifier keys="%s"/></keyMapSelect>`, i, mods)
	}
	p.line(`  </modifierMap>`)
	p.line(`  <keyMapSet id="keys">`)
	for i := range selects {
		p.line(`    <keyMap index="%d">`, i)
		p.keys(i, chords(m, b.base))
		p.line(`    </keyMap>`)
	}
	p.line(`  </keyMapSet>`)
	p.line(`  <actions>`)
	for i, whens := range p.actions {
		p.line(`    <action id="a%d">%s</action>`, i+1, whens)
	}
	if len(p.actions) == 0 { // the document type wants one
		p.line(`    <action id="a1"><when state="none" output=" "/></action>`)
	}
	p.line(`  </actions>`)
	p.line(`  <terminators>`)
	for _, state := range slices.Sorted(maps.Keys(b.alone)) {
		p.line(`    <when state="%s" output="%s"/>`, escape(state), escape(b.alone[state]))
	}
	if len(b.alone) == 0 {
		p.line(`    <when state="no state" output=""/>`)
	}
	p.line(`  </terminators>`)
	p.line(`</keyboard>`)
	return []byte(p.text.String())
}

func (p *printer) line(format string, args ...any) { fmt.Fprintf(&p.text, format+"\n", args...) }

// chords is the layout whose characters chords with Command and Control have: the machine's own, or one of
// Latin letters.
func chords(m *mechanism.Machine, own *keys.Layout) *keys.Layout {
	if own.Latin() {
		return own
	}
	return m.Latin()
}

// keys spells what the keys do under one set of modifiers, by their keycodes.
func (p *printer) keys(set int, latin *keys.Layout) {
	byCode := map[int]string{}
	for _, k := range keys.All() {
		code, ok := p.base.MacCode(k)
		if !ok || byCode[code] != "" {
			continue
		}
		if r := keys.MacOutput(k); r != 0 { // whatever is held
			byCode[code] = fmt.Sprintf(`output="%s"`, escape(string(r)))
		} else if row := p.cells[k]; row != nil {
			byCode[code] = p.does(row, k, set, latin)
		}
	}
	for _, code := range slices.Sorted(maps.Keys(byCode)) {
		if does := byCode[code]; does != "" {
			p.line(`      <key code="%d" %s/>`, code, does)
		}
	}
}

// does is the attribute that says what a key does under one set of modifiers.
func (p *printer) does(row *[states]cell, k keys.Key, set int, latin *keys.Layout) string {
	if set >= int(states) {
		mods := keys.Meta
		if set == withControl {
			mods = keys.Ctrl
		}
		typed, _ := latin.Press(keys.TypeState{}, k, mods)
		if typed.Text == "" {
			return ""
		}
		return fmt.Sprintf(`output="%s"`, escape(typed.Text))
	}
	c := row[set]
	switch {
	case !c.has:
		return ""
	case c.next == "" && len(c.in)+len(c.goes) == 0:
		return fmt.Sprintf(`output="%s"`, escape(c.text))
	}
	whens := fmt.Sprintf(`<when state="none" output="%s"/>`, escape(c.text))
	if c.next != "" {
		whens = fmt.Sprintf(`<when state="none" next="%s"/>`, escape(c.next))
	}
	for _, state := range slices.Sorted(maps.Keys(c.in)) {
		whens += fmt.Sprintf(`<when state="%s" output="%s"/>`, escape(state), escape(c.in[state]))
	}
	for _, state := range slices.Sorted(maps.Keys(c.goes)) {
		whens += fmt.Sprintf(`<when state="%s" next="%s"/>`, escape(state), escape(c.goes[state]))
	}
	at := slices.Index(p.actions, whens)
	if at < 0 {
		at = len(p.actions)
		p.actions = append(p.actions, whens)
	}
	return fmt.Sprintf(`action="a%d"`, at+1)
}

// escape spells a text as an attribute's value: what XML would change, and what one would not see, by its
// number.
func escape(text string) string {
	var w strings.Builder
	for _, r := range text {
		if strings.ContainsRune(`&<>"'`, r) || r != ' ' && !unicode.IsGraphic(r) || unicode.Is(unicode.M, r) ||
			unicode.IsSpace(r) && r != ' ' {
			fmt.Fprintf(&w, "&#x%04X;", r)
			continue
		}
		w.WriteRune(r)
	}
	return w.String()
}
