package i3

import (
	"fmt"
	"strings"
	"sync"

	"leitstand/core/action"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// does is the command of an action, and what it does otherwise than the action says.
type does struct {
	command string
	near    reason.List
}

// shared are the actions that both window managers do by the same command.
var shared = sync.OnceValue(func() map[string]does {
	list := map[string]does{
		"full-screen":                  {"fullscreen toggle", nil},
		"maximize":                     {"[con_id=__focused__] fullscreen toggle", reason.CoversBars.Of()},
		"minimize":                     {"move scratchpad", reason.ToScratchpad.Of()},
		"close":                        {"kill", nil},
		"move":                         {`mode "leitstand move"`, reason.TiledChangesPlaces.Of()},
		"resize":                       {`mode "leitstand resize"`, reason.EscapeEnds.Of()},
		"next-window":                  {"focus next", reason.NextOnWorkspace.Of()},
		"next-workspace":               {"workspace next", reason.WorkspacesInUse.Of()},
		"previous-workspace":           {"workspace prev", reason.WorkspacesInUse.Of()},
		"window-to-next-workspace":     {"move container to workspace next", reason.WorkspacesInUse.Of()},
		"window-to-previous-workspace": {"move container to workspace prev", reason.WorkspacesInUse.Of()},
		"suspend":                      {"exec systemctl suspend", nil},
		"lock":                         {"exec loginctl lock-session", reason.NeedsLockListener.Of()},
	}
	for name, line := range map[string]string{
		"play-pause": "playerctl play-pause", "stop": "playerctl stop", "next-track": "playerctl next",
		"previous-track": "playerctl previous",
		"volume-up":      "pactl set-sink-volume @DEFAULT_SINK@ +5%", "volume-down": "pactl set-sink-volume " +
			"@DEFAULT_SINK@ -5%",
		"mute": "pactl set-sink-mute @DEFAULT_SINK@ toggle", "mute-microphone": "pactl set-source-mute " +
			"@DEFAULT_SOURCE@ toggle",
		"brightness-up": "brightnessctl set 5%+", "brightness-down": "brightnessctl set 5%-",
	} {
		list[name] = needs(line)
	}
	for n := 1; n <= action.MaxWorkspace; n++ {
		list[fmt.Sprintf("workspace-%d", n)] = does{fmt.Sprintf("workspace number %d", n), nil}
		list[fmt.Sprintf("window-to-workspace-%d", n)] = does{
			fmt.Sprintf("move container to workspace number %d", n),
			nil,
		}
	}
	return list
})

// needs is a command of a program that is not part of the window manager.
func needs(line string) does {
	program, _, _ := strings.Cut(line, " ")
	return does{"exec " + line, reason.MustBeInstalled.Of(program)}
}

// own are the actions that one of the two has, or does by another command.
var own = map[bool]map[string]does{
	false: {
		"launcher":          needs("dmenu_run"),
		"screenshot":        needs("scrot"),
		"screenshot-window": needs("scrot --focused"),
		"screenshot-area":   needs("scrot --select"),
		"log-out":           {`exec i3-nagbar -t warning -m 'End the session?' -B 'End it' 'i3-msg exit'`, nil},
		"power-off":         {`exec i3-nagbar -t warning -m 'Switch off?' -B 'Switch off' 'systemctl poweroff'`, nil},
		"restart":           {`exec i3-nagbar -t warning -m 'Restart?' -B 'Restart' 'systemctl reboot'`, nil},
	},
	true: {
		"launcher":              needs("dmenu_run"),
		"screenshot":            needs("grim"),
		"log-out":               {`exec swaynag -t warning -m 'End the session?' -B 'End it' 'swaymsg exit'`, nil},
		"power-off":             {`exec swaynag -t warning -m 'Switch off?' -B 'Switch off' 'systemctl poweroff'`, nil},
		"restart":               {`exec swaynag -t warning -m 'Restart?' -B 'Restart' 'systemctl reboot'`, nil},
		"next-input-source":     {"input type:keyboard xkb_switch_layout next", nil},
		"previous-input-source": {"input type:keyboard xkb_switch_layout prev", nil},
	},
}

// Asks says whether the window manager asks before an action: what ends the session, it
// does.
func (Mechanism) Asks(*mechanism.Machine, string) bool { return true }

// action finds the command of an action.
func (t Mechanism) action(name string) (does, bool) {
	if d, ok := own[t.Sway][name]; ok {
		return d, true
	}
	d, ok := shared()[name]
	return d, ok
}

// arrows are the arrow keys by their keysyms, with what they do in the modes of our own that move and resize a window.
var arrows = []struct{ keysym, code, moves, resizes string }{
	{"Left", "ArrowLeft", "move left 10 px", "resize shrink width 10 px"},
	{"Right", "ArrowRight", "move right 10 px", "resize grow width 10 px"},
	{"Up", "ArrowUp", "move up 10 px", "resize shrink height 10 px"},
	{"Down", "ArrowDown", "move down 10 px", "resize grow height 10 px"},
}
