package xkb

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// ofBoard says how well a binding of one board lands: where the session gives a board a
// keymap of its own and knows it by its numbers. All that the layout does for every board
// is in that keymap as well.
func ofBoard(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	wayland, x11 := sessions(m)
	switch i := slices.IndexFunc(m.Boards, func(d *machine.Board) bool { return d.Name == b.Board }); {
	case wayland && m.Desktop != "sway" || wayland && x11:
		return mechanism.Offer{Why: reason.LayoutForAllBoards.Of()}
	case i < 0 || !m.Boards[i].External():
		return mechanism.Offer{Why: reason.BoardByNumbers.Of()}
	case b.Effect.Kind == behaviour.TapHold:
		return mechanism.Offer{Verdict: mechanism.NeedsAgent, Why: reason.OnlyProcess.Of("tell a tap from a hold")}
	case b.Effect.Kind == behaviour.Plays:
		return mechanism.Offer{Verdict: mechanism.NeedsAgent, Why: reason.OnlyProcess.Of("play a macro")}
	case b.Layer != "" ||
		!slices.Contains([]behaviour.Kind{behaviour.Becomes, behaviour.Nothing, behaviour.Modifier, behaviour.Composes}, b.Effect.Kind):
		return mechanism.Offer{Why: reason.BoardChangesKeys.Of()}
	}
	b.Board = ""
	answer := take(m, b)
	if answer.Verdict >= mechanism.Limited && x11 {
		answer.Verdict = mechanism.Limited
		answer.Why = answer.Why.And(reason.BoardPluggedLater.Of()...)
	}
	return answer
}

// tag is what a board is called in the names of files, sections and options.
func tag(m *intent.Machine, board string) string {
	if !strings.ContainsFunc(board, func(r rune) bool { return r >= 0x80 }) {
		return "board-" + board
	}
	return fmt.Sprintf("board%d", 1+slices.IndexFunc(m.Boards, func(b *machine.Board) bool { return b.Name == board }))
}

// boards are those of a machine that have bindings of their own.
func boards(m *intent.Machine, list []plan) []*machine.Board {
	var own []*machine.Board
	for _, b := range m.Boards {
		if slices.ContainsFunc(list, func(o plan) bool { return o.Board == b.Name }) {
			own = append(own, b)
		}
	}
	return own
}

// on is what a board's keymap holds, of the bindings of all boards: its own, and those of
// every board but where it has another. For the board "" that is every board's.
func on(board string, list []plan) []plan {
	var all []plan
	for _, b := range list {
		if b.Board == board {
			b.Board = ""
			all = append(all, b)
		}
	}
	for _, b := range list {
		if b.Board == "" && board != "" &&
			!slices.ContainsFunc(all, func(o plan) bool { return o.Place() == b.Place() }) {
			all = append(all, b)
		}
	}
	return all
}

// loadsKeymap loads the keymap of every board. A server refuses a keymap with fewer key types than the keys of the last one
// use, unless it has made the keymap of its own rules again.
const loadsKeymap = `xkbcomp -w0 keymap.xkb "$DISPLAY" 2>/dev/null || { setxkbmap && xkbcomp -w0 keymap.xkb "$DISPLAY"; }`

// loader is a script that loads the keymaps into the X server: every board's, then those
// of single boards that are plugged in. The numbers of a device are a property that the
// server's drivers give it, "Device Product ID", in decimal.
func loader(m *intent.Machine, every bool, own []*machine.Board) string {
	var w strings.Builder
	w.WriteString(
		"#!/bin/sh\n# Loads the keyboard mapping into the X server. A board that is plugged in later has its\n# " +
			"keymap when this is run again. Needs xkbcomp and xinput.\ncd \"$(dirname \"$0\")\" || exit\n",
	)
	if every {
		w.WriteString(loadsKeymap + "\n")
	}
	w.WriteString(
		"for id in $(xinput list --id-only); do\n    case $(xinput list-props \"$id\" | sed -n 's/.*Device Product " +
			"ID.*:[[:space:]]*//p') in\n",
	)
	for _, b := range own {
		ids := make([]string, len(b.IDs))
		for i, id := range b.IDs {
			ids[i] = fmt.Sprintf("'%d, %d'", id.Vendor, id.Product)
		}
		// A board may be several devices, and those that are no keyboards take no keymap.
		fmt.Fprintf(
			&w, "    %[1]s) xkbcomp -w0 -i \"$id\" %[2]s.xkb \"$DISPLAY\" 2>/dev/null || { setxkbmap -device \"$id\" && "+
				"xkbcomp -w0 -i \"$id\" %[2]s.xkb \"$DISPLAY\"; } 2>/dev/null ;;\n", strings.Join(ids, " | "), tag(m, b.Name),
		)
	}
	w.WriteString("    esac\ndone\n")
	return w.String()
}

// inputs are the arguments by which sway notes which devices have the options of a keyboard: it names a device by its
// numbers in decimal and its name, which only sway knows.
func inputs(b *machine.Board, options string) (list [][]string) {
	for _, id := range b.IDs {
		list = append(list, []string{strconv.Itoa(int(id.Vendor)), strconv.Itoa(int(id.Product)), options})
	}
	return list
}
