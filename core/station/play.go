package station

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"leitstand/core/behaviour"
	"leitstand/core/diag"
	"leitstand/core/intent"
	"leitstand/core/keys"
)

// Moment is something that happens on the board or in time, and what comes of it.
type Moment struct {
	At   time.Duration
	Does string   // what is done on the board; "" where only time passes
	Sees []string // what programs and the desktop see of it
}

// Played is strokes in time on a machine.
type Played struct {
	Machine string
	Moments []Moment // by the files
	Wanted  []Moment // by the mapping; nil where that is the same
}

const (
	tap = 50 * time.Millisecond // how long a key is down that is only named
	gap = 50 * time.Millisecond // until the next stroke
)

// Timed says whether strokes name holds, releases or times, so that they are played
// and not looked up.
func Timed(text string) bool {
	for part := range strings.SplitSeq(text, ", ") {
		verb, rest, _ := strings.Cut(strings.TrimSpace(part), " ")
		if _, err := time.ParseDuration(rest); err == nil ||
			rest != "" && slices.Contains([]string{"hold", "release", "wait"}, verb) {
			return true
		}
	}
	return false
}

// Play presses keys one after the other on a compiled machine: "KeyA" or a chord is
// tapped, "KeyA 300ms" held so long, "hold KeyA" and "release KeyA" are the two halves
// of that, and "wait 1s" lets time pass. The error says what cannot be pressed.
func (s *Station) Play(text string, where Where) (Played, error) {
	where = s.named(where)
	events, err := s.events(text, where)
	if err != nil {
		return Played{}, err
	}
	var meant []behaviour.Binding
	for _, l := range s.build.Landings {
		if where.has(l.Binding) {
			meant = append(meant, l.Binding)
		}
	}
	for _, e := range s.all().entries { // what the system does by itself is meant, too
		if e.Landing == nil &&
			!slices.ContainsFunc(
				meant, func(b behaviour.Binding) bool { return b.Level == e.Level && b.Chord.Overlaps(e.Chord) },
			) {
			meant = append(meant, e.Binding)
		}
	}
	p := Played{Machine: s.machine.Name, Moments: play(s.engine(where, nil), events)}
	byMapping := newEngine(s.machine, meant)
	byMapping.Natural = s.natural
	if where.Layer != "" {
		byMapping.SwitchOn(where.Layer)
	}
	if wanted := play(byMapping, events); !slices.EqualFunc(p.Moments, wanted, Moment.same) {
		p.Wanted = wanted
	}
	return p, nil
}

func (m Moment) same(o Moment) bool {
	return m.At == o.At && m.Does == o.Does && slices.Equal(m.Sees, o.Sees)
}

// events makes strokes into keys that go down and up.
func (s *Station) events(text string, where Where) ([]behaviour.Event, error) {
	var list []behaviour.Event
	now := time.Duration(0)
	add := func(set []keys.Key, down bool) {
		for _, k := range set {
			list = append(list, behaviour.Event{Board: where.Board, Key: s.sends(where.Board, k), Down: down, At: now})
			now += time.Millisecond
		}
	}
	for part := range strings.SplitSeq(text, ", ") {
		verb, name, _ := strings.Cut(strings.TrimSpace(part), " ")
		long := tap
		switch d, err := time.ParseDuration(name); {
		case verb == "wait" && err != nil:
			return nil, fmt.Errorf("%q is no time; write one such as 300ms or 1s", name)
		case verb == "wait":
			now += d
			continue
		case name != "" && err == nil:
			verb, name, long = "", verb, d
		case verb != "hold" && verb != "release":
			verb, name = "", strings.TrimSpace(part)
		}
		set, err := s.boardKeys(name, where.Board)
		if err != nil {
			return nil, err
		}
		back := slices.Clone(set)
		slices.Reverse(back)
		if verb != "release" {
			add(set, true)
		}
		if verb == "" {
			now += long
		}
		if verb != "hold" {
			add(back, false)
		}
		now += gap
	}
	return list, nil
}

// boardKeys are the keys to press for a chord, a single key being its place.
func (s *Station) boardKeys(name, board string) ([]keys.Key, error) {
	if k, ok := keys.ByCode(name); ok {
		return []keys.Key{k}, nil
	}
	spelled, err := keys.ParseChord(name, s.mp.ModifierNames(""), diag.Nearest)
	if err != nil {
		return nil, spellingError(err)
	}
	c, err := intent.Chord(s.mp, s.build.Intent, spelled)
	if err != nil {
		return nil, err
	}
	if c.Mods == 0 {
		return []keys.Key{c.Key}, nil
	}
	var list []keys.Key
	mods := c.Mods.Names()
	if all := s.holdingAll(board, c.Mods); len(all) > 0 {
		list, mods = all[:1:1], nil
	}
	for _, mod := range mods {
		m, _ := keys.ModByName(mod)
		holders := s.holding(board, m)
		if len(holders) == 0 {
			return nil, fmt.Errorf("no key of this machine is %s", mod)
		}
		list = append(list, holders[0])
	}
	if c.Key == keys.None {
		return list, nil
	}
	from := s.acting(board, c.Key)
	if len(from) == 0 {
		return nil, fmt.Errorf("no key of this machine gives %s", c.Key)
	}
	return append(list, from[0]), nil
}

// newEngine does what bindings say under the machine's first layout.
func newEngine(m *intent.Machine, list []behaviour.Binding) *behaviour.Engine {
	layout := m.Layouts[0]
	return behaviour.NewEngine(list, func(k keys.Key, shift, altgr bool) (rune, bool) {
		level := 0
		if shift {
			level++
		}
		if altgr {
			level += 2
		}
		types := layout.Characters(k)
		return append(types, 0, 0, 0, 0)[level], level < len(types) && types[level] != 0
	})
}

// play lets an engine handle events.
func play(e *behaviour.Engine, events []behaviour.Event) []Moment {
	var moments []Moment
	passed := func(outs []behaviour.Out) {
		for len(outs) > 0 {
			n := 1
			for n < len(outs) && outs[n].At == outs[0].At {
				n++
			}
			moments = append(moments, Moment{outs[0].At, "", seen(outs[:n])})
			outs = outs[n:]
		}
	}
	last := time.Duration(0)
	for _, ev := range events {
		passed(e.Wait(ev.At))
		how := "up"
		if ev.Down {
			how = "down"
		}
		before := e.Mods()
		m := Moment{ev.At, ev.Key.String() + " " + how, seen(e.Handle(ev))}
		// No key of a board is called Hyper, so none is seen to go down.
		switch changed := (before ^ e.Mods()) & keys.Hyper; {
		case changed != 0 && before.Has(keys.Hyper):
			m.Sees = append(m.Sees, "Hyper up")
		case changed != 0:
			m.Sees = append([]string{"Hyper down"}, m.Sees...)
		}
		moments = append(moments, m)
		last = ev.At
	}
	passed(e.Wait(last + time.Minute))
	return moments
}

// seen is what programs and the desktop see, in words.
func seen(outs []behaviour.Out) []string {
	var list []string
	for i := 0; i < len(outs); i++ {
		switch o := outs[i]; {
		case o.Down != keys.None && i+1 < len(outs) && outs[i+1].Up == o.Down:
			list = append(list, o.Down.String()+" tapped")
			i++
		case o.Down != keys.None:
			list = append(list, o.Down.String()+" down")
		case o.Up != keys.None:
			list = append(list, o.Up.String()+" up")
		case o.Text != "":
			list = append(list, fmt.Sprintf("the text %q", o.Text))
		case o.Erase > 0:
			list = append(list, fmt.Sprintf("%d characters taken back", o.Erase))
		case o.Launch != nil:
			list = append(list, behaviour.Launching(*o.Launch).String())
		case o.Action != "":
			list = append(list, behaviour.Effect{Kind: behaviour.Acts, Action: o.Action}.String())
		case o.Other != "":
			list = append(list, o.Other)
		case o.Compose:
			list = append(list, "Compose")
		}
	}
	return list
}
