package imports

import (
	"bytes"
	"slices"
	"strings"

	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// Libraries are those of the machines' own layouts, which lie beside the mapping that Text names them in.
func (g Gathered) Libraries() (files []mechanism.File) {
	known := map[string]bool{}
	for _, s := range g.Sources {
		for _, l := range libraries(s.Machine.Machine) {
			if name := g.libraryName(s.Machine.Machine, l); !known[name] {
				known[name] = true
				files = append(files, mechanism.File{Path: name, Data: l.File})
			}
		}
	}
	return files
}

// libraryName is that of the file of a machine's layout: the layout's, or where machines differ the machine's as well.
func (g Gathered) libraryName(m *machine.Machine, of machine.OwnLayout) string {
	name := strings.NewReplacer("(", "-", ")", "").Replace(of.Name)
	for _, s := range g.Sources {
		for _, l := range libraries(s.Machine.Machine) {
			if l.Name == of.Name && !bytes.Equal(l.File, of.File) {
				return m.Name + "-" + name + ".dll"
			}
		}
	}
	return name + ".dll"
}

// LeaveLibraries leaves the machines' own libraries out, where there is no folder to put them in, and says so.
func (g *Gathered) LeaveLibraries() {
	for i, s := range g.Sources {
		for _, l := range libraries(s.Machine.Machine) {
			g.Left = append(g.Left, mechanism.Left{
				File: s.Machine.Name, Text: "the system's own library of the layout " + l.Name,
				Why: "it is not copied unless --output names a file",
			})
		}
		bare, in := *s.Machine.Machine, *s.Machine
		bare.Own = nil
		in.Machine, g.Sources[i].Machine = &bare, &in
	}
}

// libraries are those of the layouts that a machine has.
func libraries(m *machine.Machine) (list []machine.OwnLayout) {
	for _, l := range m.Own {
		if slices.Contains(m.Layouts, l.Name) {
			list = append(list, l)
		}
	}
	return list
}
