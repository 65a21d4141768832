package report

import (
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/station"
)

// Pressed is what press says.
type Pressed struct {
	Version int      `json:"version"`
	Answers []Answer `json:"answers"`
}

// Answer is what a press does on one machine and board, or why it means nothing there.
type Answer struct {
	Chord   string   `json:"chord"`
	Machine string   `json:"machine"`
	Board   string   `json:"board,omitempty"`
	Press   string   `json:"press,omitempty"`
	Keys    []string `json:"keys,omitempty"`
	Way     []Step   `json:"way,omitempty"`
	Does    string   `json:"does,omitempty"`
	By      string   `json:"by,omitempty"`
	Rule    string   `json:"rule,omitempty"`
	Wanted  string   `json:"wanted,omitempty"`
	Error   string   `json:"error,omitempty"`
	// Of strokes with times, by the files and, where that differs, by the mapping.
	Played []Moment `json:"played,omitempty"`
	Meant  []Moment `json:"meant,omitempty"`
}

// Moment is what is done on the board, or time that passes, and what is seen of it.
type Moment struct {
	Millis int64    `json:"ms"`
	Board  string   `json:"board,omitempty"`
	Sees   []string `json:"sees"`
}

// Step is one stage on the way.
type Step struct {
	Stage     string `json:"stage"`
	Mechanism string `json:"target,omitempty"`
	Words     string `json:"words"`
}

// answerOf is an answer to a chord.
func answerOf(chord string, a station.Answer) Answer {
	r := Answer{
		Chord:   chord,
		Machine: a.Machine,
		Board:   a.Board,
		Press:   a.Press,
		Keys:    a.Keys,
		Does:    a.Does,
		By:      a.Owner.Name,
		Wanted:  a.Wanted,
	}
	if a.Rule != nil {
		r.Rule = mapping.Title(a.Rule)
	}
	for _, s := range a.Way {
		r.Way = append(r.Way, Step(s))
	}
	return r
}

// playedAnswer is what strokes with times do.
func playedAnswer(strokes string, p station.Played) Answer {
	return Answer{Chord: strokes, Machine: p.Machine, Played: moments(p.Moments), Meant: moments(p.Wanted)}
}

func moments(list []station.Moment) []Moment {
	var out []Moment
	for _, m := range list {
		out = append(out, Moment{m.At.Milliseconds(), m.Does, append([]string{}, m.Sees...)})
	}
	return out
}

// Search is what press --find says.
type Search struct {
	Version int     `json:"version"`
	Found   []Found `json:"found"`
}

// Found is a press that does what was looked for.
type Found struct {
	Machine string            `json:"machine"`
	Press   string            `json:"press"`
	Keys    []string          `json:"keys,omitempty"`
	Does    string            `json:"does"`
	Rule    string            `json:"rule"`
	Verdict mechanism.Verdict `json:"verdict"`
	Instead string            `json:"instead,omitempty"`
}

// foundOf is a press that was found.
func foundOf(f station.Found) Found {
	return Found{f.Machine, f.Press, f.Keys, f.Does, mapping.Title(f.Rule), f.Verdict, f.Instead}
}

// PressedOn is what machines make of chords and strokes, and how many of these questions had no answer.
func PressedOn(machines []*station.Station, chords []string, where station.Where) (said Pressed, wrong int) {
	said = Pressed{Version: Version, Answers: []Answer{}}
	for _, chord := range chords {
		for _, s := range machines {
			answers, err := answersOf(s, chord, where)
			if err != nil {
				wrong++
				answers = []Answer{{Chord: chord, Machine: s.Name(), Error: err.Error()}}
			}
			said.Answers = append(said.Answers, answers...)
		}
	}
	return said, wrong
}

func answersOf(s *station.Station, chord string, where station.Where) (list []Answer, err error) {
	if station.Timed(chord) {
		played, err := s.Play(chord, where)
		if err != nil {
			return nil, err
		}
		return []Answer{playedAnswer(chord, played)}, nil
	}
	answers, err := s.Ask(chord, where)
	for _, a := range answers {
		list = append(list, answerOf(chord, a))
	}
	return list, err
}

// FoundOn are the presses of machines that do something with words.
func FoundOn(machines []*station.Station, words []string) Search {
	said := Search{Version: Version, Found: []Found{}}
	for _, s := range machines {
		for _, f := range s.Find(words) {
			said.Found = append(said.Found, foundOf(f))
		}
	}
	return said
}
