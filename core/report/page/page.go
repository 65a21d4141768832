// Package page makes one HTML page of a mapping: boards, verdicts, hotkeys, steps, findings and evidence of all machines,
// with everything in it (HTML Living Standard; no network, and nothing that needs a script for reading). Same mapping, same
// bytes.
package page

import (
	"bytes"
	"crypto/sha256"
	_ "embed" // for the parts of the page
	"encoding/base64"
	"fmt"
	"html/template"
	"math"
	"slices"
	"strings"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/check"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/land"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/parallel"
	"leitstand/core/picture"
	"leitstand/core/picture/scene"
	"leitstand/core/report"
	"leitstand/core/report/drawing"
	"leitstand/core/station"
)

//go:embed page.html
var pageText string

//go:embed sheet.html
var sheetText string

//go:embed style.css
var styleText string

//go:embed script.js
var scriptText string

// Page is what is on a page.
type Page struct {
	Title      string
	Conclusion string
	Style      template.CSS
	Script     template.JS
	Policy     template.HTMLAttr // what a browser is to refuse
	Verdicts   []Verdict         // what the marks mean
	Table      report.Compilation
	Lines      []Line
	Validation report.Validation
	Machines   []Machine
	Findings   []Finding // what is to be read
	Notes      []Finding // what is good to know
}

// Verdict is a word with its mark.
type Verdict struct{ Word, Mark, Class, Means string }

// Finding is one of the mapping, with its mark.
type Finding struct {
	report.Finding
	Mark string
}

// Machine is one of the mapping's.
type Machine struct {
	Name, Title, ID string
	Tallies         []Tally
	Boards          []Board
	Groups          []Group
	Absent          []report.Absent
	Guides          []Guide
	Size            string // of a sheet's letters
}

// Cell is how a rule lands on a machine.
type Cell struct {
	Verdict
	Text    string
	Instead bool
	Absent  bool
}

// Line is a rule with its cells.
type Line struct {
	Rule, Why string
	Cells     []Cell
}

// Tally is how many rules have a verdict.
type Tally struct {
	Verdict
	Count int
}

// Board is one of a machine's, in several views.
type Board struct {
	Name, ID string
	Views    []View
}

// View is a board as it is alone, on a layer, or with modifiers held.
type View struct {
	Label, ID string
	Picture   template.HTML
	Notes     []Note
	First     bool
}

// Note is what keys do.
type Note struct {
	picture.Note
	On    string // keys without a place on the board
	Class string
	From  string
}

// Group are presses of one kind.
type Group struct {
	Title string
	Rows  []Row
}

// Row is a press.
type Row struct {
	report.Press
	Verdict Verdict
	Reasons string
}

// Guide is what is to be done for one mechanism.
type Guide struct {
	compile.Guide
	Evidence string
}

var verdicts = []struct {
	verdict mechanism.Verdict
	means   string
}{
	{mechanism.Exact, "works as written"},
	{mechanism.Limited, "works, with stated limits"},
	{mechanism.Manual, "follow the numbered steps"},
	{mechanism.NeedsAgent, "only a background process could do it"},
	{mechanism.Unavailable, "the system cannot do it, or Leitstand does not yet"},
}

func verdict(v mechanism.Verdict) Verdict {
	means := ""
	for _, o := range verdicts {
		if o.verdict == v {
			means = o.means
		}
	}
	return Verdict{v.String(), report.VerdictMark(v), "v-" + strings.ReplaceAll(v.String(), " ", "-"), means}
}

// Make makes a page of a mapping that was checked, with the machines as stations.
func Make(title string, mp *mapping.Mapping, found check.Report, stations []*station.Station) ([]byte, error) {
	p, err := collect(title, mp, found, stations)
	if err != nil {
		return nil, err
	}
	return render("page", pageText, p)
}

// Sheet makes a page to print: each machine's board and what its presses do, on a side of paper.
func Sheet(title string, mp *mapping.Mapping, found check.Report, stations []*station.Station) ([]byte, error) {
	p, err := collect(title, mp, found, stations)
	if err != nil {
		return nil, err
	}
	return render("sheet", sheetText, p)
}

func render(name, text string, p *Page) ([]byte, error) {
	t, err := template.New(name).Parse(text)
	if err != nil {
		return nil, err
	}
	var w bytes.Buffer
	err = t.Execute(&w, p)
	return w.Bytes(), err
}

// policy has a browser run nothing but the page's own script, and load nothing from anywhere: what stands in a mapping
// cannot do more on the page than be read. (Content Security Policy Level 3, W3C.)
func policy(script string) template.HTMLAttr {
	sum := sha256.Sum256([]byte(script))
	return template.HTMLAttr(`content="default-src 'none'; style-src 'unsafe-inline'; font-src data:; img-src data:; ` +
		`base-uri 'none'; form-action 'none'; script-src 'sha256-` + base64.StdEncoding.EncodeToString(sum[:]) + `'"`)
}

// collect gathers what is on a page.
func collect(
	title string, mp *mapping.Mapping, found check.Report, stations []*station.Station,
) (*Page, error) {
	p := &Page{
		Title: title, Validation: report.Validated(mp, found), Table: report.Planned(mp, found.Builds, nil),
		Script: template.JS(scriptText), Policy: policy(scriptText),
	}
	for _, v := range verdicts {
		p.Verdicts = append(p.Verdicts, verdict(v.verdict))
	}
	for _, r := range p.Table.Rules {
		l := Line{Rule: r.Rule, Why: r.Why}
		for _, m := range p.Validation.Machines {
			c, is := r.Verdicts[m.Machine]
			l.Cells = append(l.Cells, Cell{verdict(c.Verdict), c.String(), len(c.Instead) > 0, !is})
		}
		p.Lines = append(p.Lines, l)
	}
	p.Conclusion = conclusion(p.Validation, found.Findings)
	for _, d := range found.Findings {
		f := Finding{report.Findings(diag.List{d})[0], report.SeverityMark(d.Severity)}
		if d.Severity == diag.Note {
			p.Notes = append(p.Notes, f)
		} else {
			p.Findings = append(p.Findings, f)
		}
	}
	type made struct {
		machine Machine
		drawn   []scene.Scene
		err     error
	}
	list := make([]made, len(stations))
	parallel.Each(len(stations), func(i int) {
		m := &list[i]
		m.machine, m.drawn, m.err = collectMachine(fmt.Sprintf("m%d", i+1), stations[i], p.Validation.Machines[i])
	})
	var scenes []scene.Scene
	for _, m := range list {
		if m.err != nil {
			return nil, m.err
		}
		p.Machines, scenes = append(p.Machines, m.machine), append(scenes, m.drawn...)
	}
	faces, err := drawing.FontFaces(scenes)
	if err != nil {
		return nil, err
	}
	p.Style = template.CSS(faces + drawing.Style(scene.Light) + "@media (prefers-color-scheme:dark){@media screen{" +
		drawing.Style(scene.Dark) + "}}\n" + styleText)
	return p, nil
}

// conclusion is what the whole page comes to.
func conclusion(v report.Validation, found diag.List) string {
	of := fmt.Sprintf("%s on %s", count(v.Rules, "rule"), count(len(v.Machines), "machine"))
	errors, warnings := found.Count(diag.Error), found.Count(diag.Warning)
	switch {
	case errors > 0:
		return of + ": " + count(errors, "error") + ". Nothing can be compiled until they are mended."
	case warnings > 0:
		return of + ": " + count(warnings, "warning") + " to read before the mapping is used."
	}
	return of + ": nothing is wrong with the mapping."
}

func count(n int, of string) string {
	if n == 1 {
		return "1 " + of
	}
	return fmt.Sprintf("%d %ss", n, of)
}

func collectMachine(id string, s *station.Station, v report.Machine) (Machine, []scene.Scene, error) {
	m := Machine{Name: v.Machine, Title: v.Title, ID: id, Absent: v.Absent}
	for _, o := range verdicts {
		if n := v.Verdicts[o.verdict.String()]; n > 0 {
			m.Tallies = append(m.Tallies, Tally{verdict(o.verdict), n})
		}
	}
	m.Groups = groups(v.Presses, s.Build().Landings)
	for _, g := range s.Build().Guides() {
		m.Guides = append(m.Guides, Guide{g, g.Facts.Evidence.String()})
	}
	m.Size = fmt.Sprintf("%.1fpt", size(m.Groups))
	boards, err := picture.All(s, picture.Asked{})
	if err != nil {
		return m, nil, err
	}
	var scenes []scene.Scene
	for i, b := range boards {
		of := Board{Name: b.Name, ID: fmt.Sprintf("%s-b%d", id, i+1)}
		if of.Name == "" {
			of.Name = "every board"
		}
		views, drawn, err := collectViews(of.ID, s, b)
		if err != nil {
			return m, nil, err
		}
		of.Views = views
		m.Boards, scenes = append(m.Boards, of), append(scenes, drawn...)
	}
	return m, scenes, nil
}

// size is that of a sheet's letters, in points: the largest in which all presses have room below the board, in three
// columns of a side of A4; not smaller than can be read.
func size(groups []Group) float64 {
	const largest, smallest, step = 9.5, 4.5, 0.5
	const room = 3 * 190.0          // of three columns, with what they lose where one ends
	const left, right = 95.0, 155.0 // of a column: the press, and what it does
	at := largest
	for ; at > smallest; at -= step {
		lines := func(text string, room float64) float64 {
			return math.Ceil(float64(utf8.RuneCountInString(text)) * at * 0.56 / room)
		}
		high := 0.0
		for _, g := range groups {
			high += at * 2.2
			for _, r := range g.Rows {
				high += 0.8 + at*1.25*max(lines(r.Press.Press, left), lines(r.Does+"  = exact", right))
			}
		}
		if high <= room {
			break
		}
	}
	return at
}

// most are the views with modifiers held that a board has.
const most = 4

// collectViews draws a board alone, with each layer, and with the modifiers that have hotkeys.
func collectViews(id string, s *station.Station, alone *picture.Board) (views []View, scenes []scene.Scene, err error) {
	add := func(label string, b *picture.Board) {
		drawn := scene.Keys(b, drawing.Font{})
		v := View{
			Label: label, ID: fmt.Sprintf("%s-v%d", id, len(views)+1), First: len(views) == 0,
			Picture: template.HTML(drawing.Inline(drawn)),
		}
		for _, n := range b.Notes {
			v.Notes = append(v.Notes, noteOf(b, n))
		}
		views, scenes = append(views, v), append(scenes, drawn)
	}
	add("nothing held", alone)
	for _, layer := range alone.Layers {
		b, err := picture.Of(s, picture.Asked{Board: alone.Name, Layer: layer})
		if err != nil {
			return nil, nil, err
		}
		add("layer "+layer, b)
	}
	holds := picture.Holds(s)
	for _, hold := range holds[:min(len(holds), most)] {
		b, err := picture.Of(s, picture.Asked{Board: alone.Name, Hold: hold})
		if err != nil {
			continue // no key of this board gives them
		}
		add(hold+" held", b)
	}
	return views, scenes, nil
}

func noteOf(b *picture.Board, n picture.Note) Note {
	of := Note{Note: n, Class: "k-" + strings.ReplaceAll(string(n.Kind), " ", "-"), From: strings.Join(n.Rules, ", ")}
	if n.By != "" {
		of.From = n.By + ", by itself"
	}
	var on []string
	for _, e := range b.Elsewhere {
		if e.Note == n.Number {
			on = append(on, e.Key.String())
		}
	}
	of.On = strings.Join(on, ", ")
	return of
}

// groups are presses by what they do, in the order in which people look for them.
func groups(presses []report.Press, landings []land.Landing) (list []Group) {
	const programs, desktops, chords, layers, texts, settings = 0, 1, 2, 3, 4, 5
	list = []Group{
		programs: {Title: "Programs and pages"}, desktops: {Title: "What the desktop and programs do"},
		chords: {Title: "Keys and chords"}, layers: {Title: "Layers"}, texts: {Title: "Texts"},
		settings: {Title: "Settings"},
	}
	for i, p := range presses {
		b, at := landings[i].Binding, chords
		switch b.Effect.Kind {
		case behaviour.Launches:
			at = programs
		case behaviour.Acts, behaviour.Chooses:
			at = desktops
		case behaviour.Layers, behaviour.Leaves:
			at = layers
		case behaviour.Types, behaviour.Plays:
			at = texts
		case behaviour.Sets:
			at = settings
		default: // keys, chords, modifiers, what is off
		}
		if b.Layer != "" {
			at = layers
		}
		list[at].Rows = append(
			list[at].Rows,
			Row{p, verdict(p.Verdict), strings.Join(slices.Compact(p.Why.Strings()), "; ")},
		)
	}
	return slices.DeleteFunc(list, func(g Group) bool { return len(g.Rows) == 0 })
}
