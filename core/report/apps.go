package report

import (
	"leitstand/core/host"
)

// Apps is what apps says.
type Apps struct {
	Version int       `json:"version"`
	Apps    []HostApp `json:"apps"`
}

// HostApp is a program of this machine.
type HostApp struct {
	Name string `json:"name,omitempty"` // what a person calls it; "" for a command
	ID   string `json:"id"`             // as a mapping spells it
	Line string `json:"line,omitempty"` // what a desktop file starts
}

// AppsOf is what apps says of programs.
func AppsOf(list []host.App) Apps {
	r := Apps{Version: Version, Apps: []HostApp{}}
	for _, a := range list {
		r.Apps = append(r.Apps, HostApp(a))
	}
	return r
}
