package behaviour_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/internal/sample"
)

// events reads a script: +Key goes down, -Key goes up, Key is a tap, 50ms lets time
// pass.
func events(script string) []behaviour.Event {
	var list []behaviour.Event
	at := time.Duration(0)
	for word := range strings.FieldsSeq(script) {
		if d, err := time.ParseDuration(word); err == nil {
			at += d
			continue
		}
		code := strings.TrimLeft(word, "+-")
		if word[0] != '-' {
			list = append(list, behaviour.Event{Key: sample.Key(code), Down: true, At: at})
		}
		if word[0] != '+' {
			list = append(list, behaviour.Event{Key: sample.Key(code), At: at})
		}
	}
	return list
}

func words(list []behaviour.Out) string {
	var parts []string
	for _, o := range list {
		switch {
		case o.Down != keys.None:
			parts = append(parts, "+"+o.Down.String())
		case o.Up != keys.None:
			parts = append(parts, "-"+o.Up.String())
		case o.Erase > 0:
			parts = append(parts, fmt.Sprintf("erase %d", o.Erase))
		case o.Launch != nil:
			parts = append(parts, o.Launch.String())
		case o.Action != "":
			parts = append(parts, o.Action)
		case o.Compose:
			parts = append(parts, "compose")
		default:
			parts = append(parts, fmt.Sprintf("%q", o.Text))
		}
	}
	return strings.Join(parts, " ")
}

func us(k keys.Key, shift, altgr bool) (rune, bool) {
	l, _ := keys.FindLayout("us")
	s, ok := l.Symbols(k)
	level := 0
	if shift {
		level = 1
	}
	if !ok || altgr || level >= len(s.Level) {
		return 0, false
	}
	return keys.KeysymRune(s.Level[level])
}

func TestEngine(t *testing.T) {
	as := func(code string) *behaviour.Effect {
		return &behaviour.Effect{Kind: behaviour.Becomes, Key: sample.Key(code)}
	}
	position := func(layer, code string, e behaviour.Effect) behaviour.Binding {
		return behaviour.Binding{Layer: layer, Chord: keys.Chord{Key: sample.Key(code)}, Effect: e}
	}
	layer := func(how, name string, dead bool) behaviour.Effect {
		return behaviour.Effect{Kind: behaviour.Layers, Layer: name, How: behaviour.SwitchNamed(how), Dead: dead}
	}
	tapHold := position(
		"",
		"Space",
		behaviour.Effect{
			Kind:   behaviour.TapHold,
			Tap:    as("Space"),
			Hold:   as("ShiftLeft"),
			Within: 200 * time.Millisecond,
		},
	)
	start := behaviour.Launch{Command: []string{"tidegauge"}}
	abbreviation := func(end, letters string) behaviour.Binding {
		return behaviour.Binding{
			Level:  behaviour.Typing,
			Word:   "shf",
			End:    behaviour.EndingNamed(end),
			Case:   behaviour.LettersNamed(letters),
			Effect: behaviour.Effect{Kind: behaviour.Types, Text: "süderhaff"},
		}
	}
	for _, c := range []struct {
		name     string
		bindings []behaviour.Binding
		script   string
		want     string
	}{
		{"a key without a rule", nil, "KeyA", "+KeyA -KeyA"},
		{"a key that acts as another", []behaviour.Binding{sample.Becomes("CapsLock", "Escape")}, "CapsLock", "+Escape -Escape"},
		{"a key that does nothing", []behaviour.Binding{sample.Nothing("Insert")}, "Insert KeyA", "+KeyA -KeyA"},
		{"a key for one board only", []behaviour.Binding{sample.On("wheelhouse", sample.Nothing("Insert"))}, "Insert", "+Insert -Insert"},
		{"four modifiers", []behaviour.Binding{sample.Modifier("CapsLock", keys.Ctrl|keys.Alt)}, "+CapsLock KeyT " +
			"-CapsLock",
			"+ControlLeft +AltLeft +KeyT -KeyT -AltLeft -ControlLeft"},

		{"a tap", []behaviour.Binding{tapHold}, "+Space 80ms -Space", "+Space -Space"},
		{"a hold", []behaviour.Binding{tapHold}, "+Space 250ms KeyA -Space", "+ShiftLeft +KeyA -KeyA -ShiftLeft"},
		{"rolled over: held as soon as another key goes down", []behaviour.Binding{tapHold}, "+Space 20ms +KeyA " +
			"20ms -Space -KeyA", "+ShiftLeft +KeyA -ShiftLeft -KeyA"},
		{"tapped twice", []behaviour.Binding{tapHold}, "Space Space", "+Space -Space +Space -Space"},
		{"held and let go", []behaviour.Binding{tapHold}, "+Space 300ms -Space", "+ShiftLeft -ShiftLeft"},

		{"a hotkey", []behaviour.Binding{sample.Launch(keys.Ctrl, "KeyT", start)}, "+ControlRight KeyT -ControlRight", "+ControlRight runs tidegauge -ControlRight"},
		{"one modifier more", []behaviour.Binding{sample.Launch(keys.Ctrl, "KeyT", start)}, "+ControlLeft " +
			"+ShiftLeft KeyT -ShiftLeft -ControlLeft",
			"+ControlLeft +ShiftLeft +KeyT -KeyT -ShiftLeft -ControlLeft"},
		{"the other side", []behaviour.Binding{sample.Launch(keys.CtrlLeft, "KeyT", start)}, "+ControlRight KeyT " +
			"-ControlRight", "+ControlRight +KeyT -KeyT -ControlRight"},
		{"Hyper", []behaviour.Binding{sample.Modifier("CapsLock", keys.Hyper), sample.Launch(keys.Hyper, "KeyT", start)}, "+CapsLock KeyT -CapsLock", "runs tidegauge"},
		{"after the positions", []behaviour.Binding{sample.Becomes("AltLeft", "ControlLeft"), sample.Launch(keys.Ctrl, "KeyT", start)}, "+AltLeft KeyT -AltLeft",
			"+ControlLeft runs tidegauge -ControlLeft"},
		{"another chord", []behaviour.Binding{{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: keys.Alt, Key: sample.Key("KeyC")},
			Effect: behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: keys.Ctrl, Key: sample.Key("KeyC")}}}}, "+AltLeft KeyC -AltLeft",
			"+AltLeft -AltLeft +ControlLeft +KeyC -KeyC -ControlLeft +AltLeft -AltLeft"},
		{"a modifier alone", []behaviour.Binding{{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: keys.Meta}, Effect: behaviour.Effect{Kind: behaviour.Acts, Action: "launcher"}}},
			"MetaLeft +MetaLeft KeyA -MetaLeft", "+MetaLeft -MetaLeft launcher +MetaLeft +KeyA -KeyA -MetaLeft"},
		{"a sequence", []behaviour.Binding{{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: keys.Ctrl, Key: sample.Key("KeyK")}, Then: []keys.Chord{{Key: sample.Key("KeyT")}},
			Effect: behaviour.Launching(start)}}, "+ControlLeft KeyK -ControlLeft " +
			"KeyT KeyT +ControlLeft KeyK -ControlLeft KeyX KeyT",
			"+ControlLeft -ControlLeft runs tidegauge +KeyT -KeyT +ControlLeft -ControlLeft +KeyT -KeyT"},

		{"a held layer", []behaviour.Binding{position("", "AltRight", layer("while", "nav", false)), position("nav", "KeyH", *as("ArrowLeft"))},
			"+AltRight KeyH KeyX -AltRight KeyH", "+ArrowLeft -ArrowLeft +KeyX -KeyX +KeyH -KeyH"},
		{"goes up as it went down", []behaviour.Binding{position("", "AltRight", layer("while", "nav", false)), position("nav", "KeyH", *as("ArrowLeft"))},
			"+AltRight +KeyH -AltRight -KeyH", "+ArrowLeft -ArrowLeft"},
		{"dead keys of a layer", []behaviour.Binding{position("", "AltRight", layer("while", "nav", true)), position("nav", "KeyH", *as("ArrowLeft"))},
			"+AltRight KeyX +ShiftLeft KeyH -ShiftLeft -AltRight KeyX",
			"+ShiftLeft +ArrowLeft -ArrowLeft -ShiftLeft +KeyX -KeyX"},
		{"a switched layer", []behaviour.Binding{position("", "ScrollLock", layer("toggle", "nav", false)), position("nav", "KeyH", *as("ArrowLeft")),
			position("nav", "ScrollLock", behaviour.Effect{Kind: behaviour.Leaves, Layer: "nav"})}, "ScrollLock KeyH KeyH ScrollLock KeyH",
			"+ArrowLeft -ArrowLeft +ArrowLeft -ArrowLeft +KeyH -KeyH"},
		{"a layer for one key", []behaviour.Binding{position("", "ContextMenu", layer("once", "nav", false)), position("nav", "KeyH", *as("ArrowLeft"))},
			"ContextMenu +ShiftLeft KeyH -ShiftLeft KeyH", "+ShiftLeft +ArrowLeft -ArrowLeft -ShiftLeft +KeyH -KeyH"},

		{"an abbreviation and a blank", []behaviour.Binding{abbreviation("space", "exact")}, "KeyS KeyH KeyF Space",
			"+KeyS -KeyS +KeyH -KeyH +KeyF -KeyF +Space erase 4 \"süderhaff \" -Space"},
		{"ended by anything", []behaviour.Binding{abbreviation("any", "follow")}, "+ShiftLeft KeyS -ShiftLeft KeyH " +
			"KeyF Period",
			"+ShiftLeft +KeyS -KeyS -ShiftLeft +KeyH -KeyH +KeyF -KeyF +Period erase 4 \"Süderhaff.\" -Period"},
		{"ended by nothing", []behaviour.Binding{abbreviation("none", "exact")}, "KeyS KeyH KeyF", "+KeyS -KeyS +KeyH -KeyH +KeyF erase 3 \"süderhaff\" -KeyF"},
		{"another case", []behaviour.Binding{abbreviation("space", "exact")}, "+ShiftLeft KeyS -ShiftLeft KeyH " +
			"KeyF Space",
			"+ShiftLeft +KeyS -KeyS -ShiftLeft +KeyH -KeyH +KeyF -KeyF +Space -Space"},
		{"an arrow in between", []behaviour.Binding{abbreviation("space", "exact")}, "KeyS KeyH ArrowLeft KeyF Space",
			"+KeyS -KeyS +KeyH -KeyH +ArrowLeft -ArrowLeft +KeyF -KeyF +Space -Space"},
	} {
		e := behaviour.NewEngine(c.bindings, us)
		var out []behaviour.Out
		for _, ev := range events(c.script) {
			out = append(out, e.Handle(ev)...)
		}
		assert.Equal(t, c.want, words(out), c.name)
	}
}

// A macro keeps its pauses.
func TestMacroTimes(t *testing.T) {
	e := behaviour.NewEngine(
		[]behaviour.Binding{
			{
				Level: behaviour.Hotkey,
				Chord: keys.Chord{Key: sample.Key("F8")},
				Effect: behaviour.Playing([]behaviour.Step{
					{Press: keys.Chord{Key: sample.Key("KeyA")}},
					{Wait: 100 * time.Millisecond},
					{Type: "done"},
				}),
			},
		},
		nil,
	)
	out := e.Handle(behaviour.Event{Key: sample.Key("F8"), Down: true, At: time.Second})
	require.Len(t, out, 3)
	assert.Equal(t, time.Second, out[0].At)
	assert.Equal(t, 1100*time.Millisecond, out[2].At)
	assert.Empty(t, e.Wait(3*time.Second))
}

// For every key outside layers, the engine does what the bindings say of it.
func TestEngineAgreesWithBindings(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list := sample.Positions(t, func(b behaviour.Binding) bool { return b.Effect.Kind != behaviour.Sends })
		says := map[keys.Key]behaviour.Effect{}
		for _, b := range list {
			says[b.Chord.Key] = b.Effect
		}
		e := behaviour.NewEngine(list, nil)
		for _, k := range keys.All() {
			want := "+" + k.String() + " -" + k.String()
			switch effect, ok := says[k]; {
			case ok && effect.Kind == behaviour.Becomes:
				want = "+" + effect.Key.String() + " -" + effect.Key.String()
			case ok && effect.Kind == behaviour.Composes:
				want = "compose"
			case ok: // nothing, or Hyper, which is no key
				want = ""
			}
			out := e.Handle(behaviour.Event{Key: k, Down: true})
			if ok := says[k].Kind == behaviour.Modifier; ok {
				require.Equal(t, says[k].Mods, e.Mods())
			}
			require.Equal(t, want, words(append(out, e.Handle(behaviour.Event{Key: k})...)), k.String())
		}
	})
}

// Whatever is pressed, every key that went down goes up again once everything is let
// go, and no modifier is left.
func TestNothingStaysDown(t *testing.T) {
	codes := []string{"KeyA", "CapsLock", "Space", "AltRight", "ShiftLeft", "ContextMenu", "Escape"}
	rapid.Check(t, func(t *rapid.T) {
		bindings := sample.Positions(t, func(behaviour.Binding) bool { return true })
		bindings = append(
			bindings,
			behaviour.Binding{
				Chord: keys.Chord{Key: sample.Key("Space")},
				Effect: behaviour.Effect{Kind: behaviour.TapHold, Within: 100 * time.Millisecond,
					Tap:  &behaviour.Effect{Kind: behaviour.Becomes, Key: sample.Key("Tab")},
					Hold: &behaviour.Effect{Kind: behaviour.Layers, Layer: "nav", How: behaviour.While}},
			},
			behaviour.Binding{
				Layer:  "nav",
				Chord:  keys.Chord{Key: sample.Key("KeyA")},
				Effect: behaviour.Effect{Kind: behaviour.Modifier, Mods: keys.Ctrl | keys.Shift},
			},
		)
		e := behaviour.NewEngine(bindings, us)
		at := time.Duration(0)
		down := map[string]bool{}
		var out []behaviour.Out
		handle := func(board, code string) {
			at += time.Duration(rapid.IntRange(0, 150).Draw(t, "ms")) * time.Millisecond
			down[board+code] = !down[board+code]
			out = append(
				out,
				e.Handle(behaviour.Event{Board: board, Key: sample.Key(code), Down: down[board+code], At: at})...)
		}
		boards := []string{"", "chart-table"}
		for range rapid.IntRange(0, 30).Draw(t, "events") {
			handle(rapid.SampledFrom(boards).Draw(t, "board"), rapid.SampledFrom(codes).Draw(t, "key"))
		}
		for _, board := range boards {
			for _, code := range codes {
				if down[board+code] {
					handle(board, code)
				}
			}
		}
		held := map[keys.Key]int{}
		for _, o := range out {
			if o.Down != keys.None {
				held[o.Down]++
			}
			if o.Up != keys.None {
				held[o.Up]--
			}
		}
		for k, n := range held {
			require.Zero(t, n, k.String())
		}
		require.Zero(t, e.Mods())
	})
}

// What two boards hold is let go for a chord and held again in one order, whichever was
// pressed first.
func TestChordOverTwoBoards(t *testing.T) {
	f6 := behaviour.Binding{
		Chord:  keys.Chord{Key: sample.Key("F6")},
		Effect: behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: keys.Alt, Key: sample.Key("KeyX")}},
	}
	seen := map[string]bool{}
	for range 20 {
		for _, order := range [][2]string{{"", "chart-table"}, {"chart-table", ""}} {
			e := behaviour.NewEngine([]behaviour.Binding{f6}, us)
			held := map[string]string{"": "ControlLeft", "chart-table": "ShiftLeft"}
			for _, board := range order {
				e.Handle(behaviour.Event{Board: board, Key: sample.Key(held[board]), Down: true})
			}
			seen[words(e.Handle(behaviour.Event{Key: sample.Key("F6"), Down: true, At: time.Second}))] = true
		}
	}
	require.Equal(
		t, map[string]bool{"-ControlLeft -ShiftLeft +AltLeft +KeyX -KeyX -AltLeft +ControlLeft +ShiftLeft": true}, seen,
	)
}
