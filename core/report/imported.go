package report

import "leitstand/core/mechanism"

// Imported is what import says: the mapping, and what of the files is not in it.
type Imported struct {
	Version int              `json:"version"`
	Mapping string           `json:"mapping"`
	Left    []mechanism.Left `json:"left"`
}
