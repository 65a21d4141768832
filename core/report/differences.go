package report

import (
	"leitstand/core/behaviour"
	"leitstand/core/compare"
)

// Differences is what diff says of two mappings.
type Differences struct {
	Version     int                  `json:"version"`
	Differences []compare.Difference `json:"differences"`
}

// DifferencesOf is what diff says of two mappings.
func DifferencesOf(list []compare.Difference) Differences {
	return Differences{Version, append([]compare.Difference{}, list...)}
}

// FolderDifferences is what diff says of a compiled folder.
type FolderDifferences struct {
	Version  int                `json:"version"`
	Machines []FolderDifference `json:"machines"`
	// The presses that differ, each change once for all machines that share it, in words.
	Together []compare.Change `json:"-"`
}

// FolderDifference is how one machine of a compiled folder differs from the mapping.
type FolderDifference struct {
	Machine string            `json:"machine"`
	State   string            `json:"state"` // same, different, missing, unknown, unreadable
	Reason  string            `json:"reason,omitempty"`
	Presses []PressDifference `json:"presses"`
	Files   []FileDifference  `json:"files"`
}

// PressDifference is a press that does something else.
type PressDifference struct {
	Press    string `json:"press"`
	Compiled string `json:"compiled,omitempty"`
	Mapping  string `json:"mapping,omitempty"`
	// Since says who has changed it since it was installed, where something was: machine or mapping.
	Since string `json:"since,omitempty"`
}

// FileDifference is a file that differs.
type FileDifference struct {
	Path string       `json:"path"`
	Kind compare.Kind `json:"kind"`
	// How its text differs; of binary files, nothing.
	Unified string `json:"-"`
}

// State is how a folder's machine stands to the mapping, in a word.
func State(d compare.MachineDifference) string {
	switch {
	case d.Missing:
		return "missing"
	case d.Unknown:
		return "unknown"
	case d.Broken != "":
		return "unreadable"
	case d.Same():
		return "same"
	default:
		return "different"
	}
}

// FolderDifferencesOf is what diff says of a compiled folder.
func FolderDifferencesOf(list []compare.MachineDifference) FolderDifferences {
	out := FolderDifferences{Version: Version, Machines: []FolderDifference{}, Together: compare.Together(list)}
	for _, d := range list {
		r := FolderDifference{d.Machine, State(d), d.Broken, []PressDifference{}, []FileDifference{}}
		for _, c := range d.Presses {
			r.Presses = append(r.Presses, PressDifference{
				c.Press, Effect(c.Before), Effect(c.After), string(d.Since[c.Place]),
			})
		}
		for _, f := range d.Files {
			r.Files = append(r.Files, FileDifference{f.Path, f.Kind, f.Unified})
		}
		out.Machines = append(out.Machines, r)
	}
	return out
}

// Effect is an effect in words, "" for none.
func Effect(e *behaviour.Effect) string {
	if e == nil {
		return ""
	}
	return e.String()
}
