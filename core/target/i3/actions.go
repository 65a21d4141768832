package i3

import (
	"fmt"
	"strings"
	"sync"

	"leitstand/core/action"
	"leitstand/core/target"
)

// does is the command of an action, and what it does otherwise than the action says.
type does struct{ command, near string }

// shared are the actions that both window managers do by the same command.
var shared = sync.OnceValue(func() map[string]does {
	list := map[string]does{
		"full-screen":                  {"fullscreen toggle", ""},
		"maximize":                     {"[con_id=__focused__] fullscreen toggle", "the window covers the bars as well"},
		"minimize":                     {"move scratchpad", "the window goes to the scratchpad, from which `scratchpad show` brings it back"},
		"close":                        {"kill", ""},
		"move":                         {`mode "leitstand move"`, "a tiled window changes places; Escape ends it"},
		"resize":                       {`mode "leitstand resize"`, "Escape ends it"},
		"next-window":                  {"focus next", "the next one on the workspace"},
		"next-workspace":               {"workspace next", "of those that are in use"},
		"previous-workspace":           {"workspace prev", "of those that are in use"},
		"window-to-next-workspace":     {"move container to workspace next", "of those that are in use"},
		"window-to-previous-workspace": {"move container to workspace prev", "of those that are in use"},
		"suspend":                      {"exec systemctl suspend", ""},
		"lock":                         {"exec loginctl lock-session", "something must listen for the lock signal, such as xss-lock or swayidle"},
	}
	for name, line := range map[string]string{
		"play-pause": "playerctl play-pause", "stop": "playerctl stop", "next-track": "playerctl next", "previous-track": "playerctl previous",
		"volume-up": "pactl set-sink-volume @DEFAULT_SINK@ +5%", "volume-down": "pactl set-sink-volume @DEFAULT_SINK@ -5%",
		"mute": "pactl set-sink-mute @DEFAULT_SINK@ toggle", "mute-microphone": "pactl set-source-mute @DEFAULT_SOURCE@ toggle",
		"brightness-up": "brightnessctl set 5%+", "brightness-down": "brightnessctl set 5%-",
	} {
		list[name] = needs(line)
	}
	for n := 1; n <= action.MaxWorkspace; n++ {
		list[fmt.Sprintf("workspace-%d", n)] = does{fmt.Sprintf("workspace number %d", n), ""}
		list[fmt.Sprintf("window-to-workspace-%d", n)] = does{fmt.Sprintf("move container to workspace number %d", n), ""}
	}
	return list
})

// needs is a command of a program that is not part of the window manager.
func needs(line string) does {
	program, _, _ := strings.Cut(line, " ")
	return does{"exec " + line, program + " must be installed"}
}

// own are the actions that one of the two has, or does by another command.
var own = map[bool]map[string]does{
	false: {
		"launcher":          needs("dmenu_run"),
		"screenshot":        needs("scrot"),
		"screenshot-window": needs("scrot --focused"),
		"screenshot-area":   needs("scrot --select"),
		"log-out":           {`exec i3-nagbar -t warning -m 'End the session?' -B 'End it' 'i3-msg exit'`, ""},
		"power-off":         {`exec i3-nagbar -t warning -m 'Switch off?' -B 'Switch off' 'systemctl poweroff'`, ""},
		"restart":           {`exec i3-nagbar -t warning -m 'Restart?' -B 'Restart' 'systemctl reboot'`, ""},
	},
	true: {
		"launcher":              needs("dmenu_run"),
		"screenshot":            needs("grim"),
		"log-out":               {`exec swaynag -t warning -m 'End the session?' -B 'End it' 'swaymsg exit'`, ""},
		"power-off":             {`exec swaynag -t warning -m 'Switch off?' -B 'Switch off' 'systemctl poweroff'`, ""},
		"restart":               {`exec swaynag -t warning -m 'Restart?' -B 'Restart' 'systemctl reboot'`, ""},
		"next-input-source":     {"input type:keyboard xkb_switch_layout next", ""},
		"previous-input-source": {"input type:keyboard xkb_switch_layout prev", ""},
	},
}

// Asks says whether the window manager asks before an action: what ends the session, it
// does.
func (Target) Asks(*target.Machine, string) bool { return true }

// action finds the command of an action.
func (t Target) action(name string) (does, bool) {
	if d, ok := own[t.Sway][name]; ok {
		return d, true
	}
	d, ok := shared()[name]
	return d, ok
}
