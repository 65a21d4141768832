package dconf

import (
	"fmt"
	"sync"

	"leitstand/core/action"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// numbered adds the actions of numbered workspaces.
func numbered(to, window string, list map[string]string) map[string]string {
	for n := 1; n <= action.MaxWorkspace; n++ {
		list[fmt.Sprintf("workspace-%d", n)] = fmt.Sprintf("%sswitch-to-workspace-%d", to, n)
		list[fmt.Sprintf("window-to-workspace-%d", n)] = fmt.Sprintf("%smove-to-workspace-%d", window, n)
	}
	return list
}

// families are the three desktops. The tables are made when somebody asks.
var families = sync.OnceValue(func() map[string]family {
	return map[string]family{
		"gnome": {
			basis: "chords pressed in sessions of its own, on Wayland and X11, started commands, tiled and " +
				"closed windows; the values read back through the schemas",
			evidence: mechanism.Tested,
			actions: numbered(
				"/org/gnome/desktop/wm/keybindings/",
				"/org/gnome/desktop/wm/keybindings/",
				map[string]string{
					"tile-left":                    "/org/gnome/mutter/keybindings/toggle-tiled-left",
					"tile-right":                   "/org/gnome/mutter/keybindings/toggle-tiled-right",
					"maximize":                     "/org/gnome/desktop/wm/keybindings/toggle-maximized",
					"minimize":                     "/org/gnome/desktop/wm/keybindings/minimize",
					"full-screen":                  "/org/gnome/desktop/wm/keybindings/toggle-fullscreen",
					"close":                        "/org/gnome/desktop/wm/keybindings/close",
					"move":                         "/org/gnome/desktop/wm/keybindings/begin-move",
					"resize":                       "/org/gnome/desktop/wm/keybindings/begin-resize",
					"next-window":                  "/org/gnome/desktop/wm/keybindings/switch-windows",
					"next-window-of-app":           "/org/gnome/desktop/wm/keybindings/switch-group",
					"overview":                     "/org/gnome/shell/keybindings/toggle-overview",
					"launcher":                     "/org/gnome/shell/keybindings/toggle-application-view",
					"show-desktop":                 "/org/gnome/desktop/wm/keybindings/show-desktop",
					"next-workspace":               "/org/gnome/desktop/wm/keybindings/switch-to-workspace-right",
					"previous-workspace":           "/org/gnome/desktop/wm/keybindings/switch-to-workspace-left",
					"window-to-next-workspace":     "/org/gnome/desktop/wm/keybindings/move-to-workspace-right",
					"window-to-previous-workspace": "/org/gnome/desktop/wm/keybindings/move-to-workspace-left",
					"lock":                         "/org/gnome/settings-daemon/plugins/media-keys/screensaver",
					"suspend":                      "/org/gnome/settings-daemon/plugins/media-keys/suspend",
					"log-out":                      "/org/gnome/settings-daemon/plugins/media-keys/logout",
					"screenshot":                   "/org/gnome/shell/keybindings/screenshot",
					"screenshot-window":            "/org/gnome/shell/keybindings/screenshot-window",
					"screenshot-area":              "/org/gnome/shell/keybindings/show-screenshot-ui",
					"play-pause":                   "/org/gnome/settings-daemon/plugins/media-keys/play",
					"stop":                         "/org/gnome/settings-daemon/plugins/media-keys/stop",
					"next-track":                   "/org/gnome/settings-daemon/plugins/media-keys/next",
					"previous-track":               "/org/gnome/settings-daemon/plugins/media-keys/previous",
					"volume-up":                    "/org/gnome/settings-daemon/plugins/media-keys/volume-up",
					"volume-down":                  "/org/gnome/settings-daemon/plugins/media-keys/volume-down",
					"mute":                         "/org/gnome/settings-daemon/plugins/media-keys/volume-mute",
					"mute-microphone":              "/org/gnome/settings-daemon/plugins/media-keys/mic-mute",
					"brightness-up":                "/org/gnome/settings-daemon/plugins/media-keys/screen-brightness-up",
					"brightness-down":              "/org/gnome/settings-daemon/plugins/media-keys/screen-brightness-down",
					"notifications":                "/org/gnome/shell/keybindings/toggle-message-tray",
					"next-input-source":            "/org/gnome/desktop/wm/keybindings/switch-input-source",
					"previous-input-source":        "/org/gnome/desktop/wm/keybindings/switch-input-source-backward",
				},
			),
			commands: map[string]need{
				"power-off": {[]string{"gnome-session-quit", "--power-off"}, nil},
				"restart":   {[]string{"gnome-session-quit", "--reboot"}, nil},
			},
			own: "/org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/", command: "command",
			list:   "/org/gnome/settings-daemon/plugins/media-keys/custom-keybindings",
			listed: "/org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/%s/",
			repeat: "/org/gnome/desktop/peripherals/keyboard/", interval: true,
		},
		"mate": {
			basis: "the values read back through the schemas; chords pressed under marco and " +
				"mate-settings-daemon tiled windows and started commands",
			evidence: mechanism.Tested, one: true,
			actions: numbered(
				"/org/mate/marco/global-keybindings/",
				"/org/mate/marco/window-keybindings/",
				map[string]string{
					"tile-left":                    "/org/mate/marco/window-keybindings/tile-to-side-w",
					"tile-right":                   "/org/mate/marco/window-keybindings/tile-to-side-e",
					"tile-top-left":                "/org/mate/marco/window-keybindings/tile-to-corner-nw",
					"tile-top-right":               "/org/mate/marco/window-keybindings/tile-to-corner-ne",
					"tile-bottom-left":             "/org/mate/marco/window-keybindings/tile-to-corner-sw",
					"tile-bottom-right":            "/org/mate/marco/window-keybindings/tile-to-corner-se",
					"maximize":                     "/org/mate/marco/window-keybindings/toggle-maximized",
					"minimize":                     "/org/mate/marco/window-keybindings/minimize",
					"full-screen":                  "/org/mate/marco/window-keybindings/toggle-fullscreen",
					"close":                        "/org/mate/marco/window-keybindings/close",
					"move":                         "/org/mate/marco/window-keybindings/begin-move",
					"resize":                       "/org/mate/marco/window-keybindings/begin-resize",
					"next-window":                  "/org/mate/marco/global-keybindings/switch-windows",
					"next-window-of-app":           "/org/mate/marco/global-keybindings/switch-group",
					"show-desktop":                 "/org/mate/marco/global-keybindings/show-desktop",
					"launcher":                     "/org/mate/marco/global-keybindings/panel-main-menu",
					"next-workspace":               "/org/mate/marco/global-keybindings/switch-to-workspace-right",
					"previous-workspace":           "/org/mate/marco/global-keybindings/switch-to-workspace-left",
					"window-to-next-workspace":     "/org/mate/marco/window-keybindings/move-to-workspace-right",
					"window-to-previous-workspace": "/org/mate/marco/window-keybindings/move-to-workspace-left",
					"lock":                         "/org/mate/settings-daemon/plugins/media-keys/screensaver",
					"log-out":                      "/org/mate/settings-daemon/plugins/media-keys/logout",
					"power-off":                    "/org/mate/settings-daemon/plugins/media-keys/power",
					"screenshot":                   "/org/mate/marco/global-keybindings/run-command-screenshot",
					"screenshot-window":            "/org/mate/marco/global-keybindings/run-command-window-screenshot",
					"play-pause":                   "/org/mate/settings-daemon/plugins/media-keys/play",
					"stop":                         "/org/mate/settings-daemon/plugins/media-keys/stop",
					"next-track":                   "/org/mate/settings-daemon/plugins/media-keys/next",
					"previous-track":               "/org/mate/settings-daemon/plugins/media-keys/previous",
					"volume-up":                    "/org/mate/settings-daemon/plugins/media-keys/volume-up",
					"volume-down":                  "/org/mate/settings-daemon/plugins/media-keys/volume-down",
					"mute":                         "/org/mate/settings-daemon/plugins/media-keys/volume-mute",
					"mute-microphone":              "/org/mate/settings-daemon/plugins/media-keys/mic-mute",
				},
			),
			commands: map[string]need{
				"suspend": {[]string{"systemctl", "suspend"}, nil},
				"restart": {[]string{"systemctl", "reboot"}, reason.WithoutQuestion.Of()},
				"screenshot-area": {
					[]string{"mate-screenshot", "--area"},
					reason.MustBeInstalled.Of("mate-screenshot"),
				},
			},
			own: "/org/mate/desktop/keybindings/", command: "action", repeat: "/org/mate/desktop/peripherals/keyboard/",
		},
		"cinnamon": {
			basis: "the values read back through the schemas; chords pressed under its window manager tiled and " +
				"closed windows (no command was started by one)",
			evidence: mechanism.Tested,
			actions: numbered(
				"/org/cinnamon/desktop/keybindings/wm/",
				"/org/cinnamon/desktop/keybindings/wm/",
				map[string]string{
					"tile-left":                    "/org/cinnamon/desktop/keybindings/wm/push-tile-left",
					"tile-right":                   "/org/cinnamon/desktop/keybindings/wm/push-tile-right",
					"tile-top":                     "/org/cinnamon/desktop/keybindings/wm/push-tile-up",
					"tile-bottom":                  "/org/cinnamon/desktop/keybindings/wm/push-tile-down",
					"maximize":                     "/org/cinnamon/desktop/keybindings/wm/toggle-maximized",
					"minimize":                     "/org/cinnamon/desktop/keybindings/wm/minimize",
					"full-screen":                  "/org/cinnamon/desktop/keybindings/wm/toggle-fullscreen",
					"close":                        "/org/cinnamon/desktop/keybindings/wm/close",
					"move":                         "/org/cinnamon/desktop/keybindings/wm/begin-move",
					"resize":                       "/org/cinnamon/desktop/keybindings/wm/begin-resize",
					"next-window":                  "/org/cinnamon/desktop/keybindings/wm/switch-windows",
					"next-window-of-app":           "/org/cinnamon/desktop/keybindings/wm/switch-group",
					"show-desktop":                 "/org/cinnamon/desktop/keybindings/wm/show-desktop",
					"overview":                     "/org/cinnamon/desktop/keybindings/wm/switch-to-workspace-down",
					"next-workspace":               "/org/cinnamon/desktop/keybindings/wm/switch-to-workspace-right",
					"previous-workspace":           "/org/cinnamon/desktop/keybindings/wm/switch-to-workspace-left",
					"window-to-next-workspace":     "/org/cinnamon/desktop/keybindings/wm/move-to-workspace-right",
					"window-to-previous-workspace": "/org/cinnamon/desktop/keybindings/wm/move-to-workspace-left",
					"lock":                         "/org/cinnamon/desktop/keybindings/media-keys/screensaver",
					"suspend":                      "/org/cinnamon/desktop/keybindings/media-keys/suspend",
					"log-out":                      "/org/cinnamon/desktop/keybindings/media-keys/logout",
					"power-off":                    "/org/cinnamon/desktop/keybindings/media-keys/shutdown",
					"screenshot":                   "/org/cinnamon/desktop/keybindings/media-keys/screenshot",
					"screenshot-window":            "/org/cinnamon/desktop/keybindings/media-keys/window-screenshot",
					"screenshot-area":              "/org/cinnamon/desktop/keybindings/media-keys/area-screenshot",
					"play-pause":                   "/org/cinnamon/desktop/keybindings/media-keys/play",
					"stop":                         "/org/cinnamon/desktop/keybindings/media-keys/stop",
					"next-track":                   "/org/cinnamon/desktop/keybindings/media-keys/next",
					"previous-track":               "/org/cinnamon/desktop/keybindings/media-keys/previous",
					"volume-up":                    "/org/cinnamon/desktop/keybindings/media-keys/volume-up",
					"volume-down":                  "/org/cinnamon/desktop/keybindings/media-keys/volume-down",
					"mute":                         "/org/cinnamon/desktop/keybindings/media-keys/volume-mute",
					"mute-microphone":              "/org/cinnamon/desktop/keybindings/media-keys/mic-mute",
					"brightness-up":                "/org/cinnamon/desktop/keybindings/media-keys/screen-brightness-up",
					"brightness-down":              "/org/cinnamon/desktop/keybindings/media-keys/screen-brightness-down",
				},
			),
			commands: map[string]need{"restart": {[]string{"cinnamon-session-quit", "--reboot"}, nil}},
			own:      "/org/cinnamon/desktop/keybindings/custom-keybindings/", command: "command",
			list: "/org/cinnamon/desktop/keybindings/custom-list", listed: "%s",
			repeat: "/org/cinnamon/desktop/peripherals/keyboard/", interval: true,
		},
	}
})
