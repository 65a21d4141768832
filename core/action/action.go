// Package action lists what a desktop can do by itself, under one name for every
// system: the values of does in a mapping.
package action

import (
	"fmt"
	"strconv"
	"strings"
	"sync"
)

// Action is one thing that desktops do.
type Action struct {
	Name  string
	Group string // heading of listings
	Words string // what it does
}

// MaxWorkspace is the highest number of a numbered workspace.
const MaxWorkspace = 12

var all = sync.OnceValue(func() []Action {
	list := []Action{
		{"tile-left", "windows", "put the window into the left half"},
		{"tile-right", "windows", "put the window into the right half"},
		{"tile-top", "windows", "put the window into the upper half"},
		{"tile-bottom", "windows", "put the window into the lower half"},
		{"tile-top-left", "windows", "put the window into the upper left quarter"},
		{"tile-top-right", "windows", "put the window into the upper right quarter"},
		{"tile-bottom-left", "windows", "put the window into the lower left quarter"},
		{"tile-bottom-right", "windows", "put the window into the lower right quarter"},
		{"maximize", "windows", "let the window fill the screen, or undo that"},
		{"minimize", "windows", "put the window out of sight"},
		{"full-screen", "windows", "show the window without its frame, or undo that"},
		{"close", "windows", "close the window"},
		{"move", "windows", "move the window with the arrow keys"},
		{"resize", "windows", "resize the window with the arrow keys"},
		{"next-window", "windows", "go to the next window"},
		{"next-window-of-app", "windows", "go to the program's next window"},
		{"app-windows", "overview", "show all windows of the program"},
		{"overview", "overview", "show all windows"},
		{"show-desktop", "overview", "put all windows out of sight, or back"},
		{"launcher", "overview", "open the menu of programs"},
		{"next-workspace", "workspaces", "go to the next workspace"},
		{"previous-workspace", "workspaces", "go to the previous workspace"},
		{"window-to-next-workspace", "workspaces", "take the window to the next workspace"},
		{"window-to-previous-workspace", "workspaces", "take the window to the previous workspace"},
	}
	for n := 1; n <= MaxWorkspace; n++ {
		list = append(list, Action{fmt.Sprintf("workspace-%d", n), "workspaces", fmt.Sprintf("go to workspace %d", n)})
	}
	for n := 1; n <= MaxWorkspace; n++ {
		list = append(
			list,
			Action{
				fmt.Sprintf("window-to-workspace-%d", n),
				"workspaces",
				fmt.Sprintf("take the window to workspace %d", n),
			},
		)
	}
	return append(list,
		Action{"lock", "session", "lock the screen"},
		Action{"suspend", "session", "send the machine to sleep"},
		Action{"log-out", "session", "end the session, after a question"},
		Action{"power-off", "session", "switch the machine off, after a question"},
		Action{"restart", "session", "start the machine anew, after a question"},
		Action{"screenshot", "screenshots", "take a picture of the screen"},
		Action{"screenshot-window", "screenshots", "take a picture of the window"},
		Action{"screenshot-area", "screenshots", "take a picture of an area"},
		Action{"play-pause", "media", "play or pause"},
		Action{"stop", "media", "stop playing"},
		Action{"next-track", "media", "play the next piece"},
		Action{"previous-track", "media", "play the previous piece"},
		Action{"volume-up", "media", "louder"},
		Action{"volume-down", "media", "softer"},
		Action{"mute", "media", "sound off, or on again"},
		Action{"mute-microphone", "media", "microphone off, or on again"},
		Action{"brightness-up", "media", "brighter screen"},
		Action{"brightness-down", "media", "darker screen"},
		Action{"copy", "editing", "copy what is selected"},
		Action{"cut", "editing", "cut what is selected"},
		Action{"paste", "editing", "paste what was copied or cut"},
		Action{"undo", "editing", "undo the last change"},
		Action{"redo", "editing", "do again what was undone"},
		Action{"select-all", "editing", "select everything"},
		Action{"find", "editing", "look for a text"},
		Action{"save", "editing", "save the document"},
		Action{"notifications", "panels", "show the notifications"},
		Action{"quick-settings", "panels", "show the quick settings"},
		Action{"next-input-source", "panels", "type with the next layout"},
		Action{"previous-input-source", "panels", "type with the previous layout"},
	)
})

// All lists every action, group by group.
func All() []Action { return all() }

// Names lists the names of All.
func Names() []string {
	names := make([]string, len(all()))
	for i, a := range all() {
		names[i] = a.Name
	}
	return names
}

// Find finds an action by its name.
func Find(name string) (Action, bool) {
	for _, a := range all() {
		if a.Name == name {
			return a, true
		}
	}
	return Action{}, false
}

// Number is the number of a numbered workspace action and the name without it:
// "workspace", 3 for workspace-3.
func Number(name string) (base string, n int, ok bool) {
	i := strings.LastIndexByte(name, '-')
	if i < 0 {
		return "", 0, false
	}
	n, err := strconv.Atoi(name[i+1:])
	if err != nil {
		return "", 0, false
	}
	return name[:i], n, true
}

// Confirmable are the actions before which a question makes sense.
var Confirmable = []string{"log-out", "power-off", "restart"}
