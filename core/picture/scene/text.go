package scene

import "strings"

// Fit breaks a text into at most so many lines that have room, in the largest of some sizes in which it goes; where none is
// small enough, it is cut in the last one.
func Fit(font Font, text string, room float64, lines int, bold bool, sizes ...float64) (rows []string, size float64) {
	for _, size = range sizes {
		if rows = wrap(font, text, room, size, bold); len(rows) <= lines && fits(font, rows, room, size, bold) {
			return rows, size
		}
	}
	if len(rows) > lines {
		rows = append(rows[:lines-1:lines-1], strings.Join(rows[lines-1:], " "))
	}
	for i := range rows {
		rows[i] = Cut(font, rows[i], room, size, bold)
	}
	return rows, size
}

// Wrap breaks a text into lines that have room; a word that is longer is broken.
func Wrap(font Font, text string, room, size float64, bold bool) (rows []string) {
	for _, row := range wrap(font, text, room, size, bold) {
		for font.Width(row, size, bold) > room {
			head := longest(font, row, room, size, bold)
			rows, row = append(rows, head), row[len(head):]
		}
		rows = append(rows, row)
	}
	return rows
}

// wrap breaks a text between words, and behind the plus of chords.
func wrap(font Font, text string, room, size float64, bold bool) (rows []string) {
	row := ""
	for _, word := range pieces(text) {
		if next := row + word; row == "" || font.Width(strings.TrimRight(next, " "), size, bold) <= room {
			row = next
			continue
		}
		rows, row = append(rows, strings.TrimRight(row, " ")), word
	}
	return append(rows, strings.TrimRight(row, " "))
}

// pieces are the words of a text, each with what stands behind it.
func pieces(text string) (list []string) {
	start := 0
	for i, r := range text {
		if r == ' ' || r == '+' && i > start && i+1 < len(text) {
			list, start = append(list, text[start:i+1]), i+1
		}
	}
	return append(list, text[start:])
}

func fits(font Font, rows []string, room, size float64, bold bool) bool {
	for _, row := range rows {
		if font.Width(row, size, bold) > room {
			return false
		}
	}
	return true
}

// Cut shortens a text to the room that it has, with a sign that it goes on.
func Cut(font Font, text string, room, size float64, bold bool) string {
	if font.Width(text, size, bold) <= room {
		return text
	}
	return strings.TrimRight(longest(font, text, room-font.Width("…", size, bold), size, bold), " ") + "…"
}

// longest is the longest beginning of a text that has room, a character at least.
func longest(font Font, text string, room, size float64, bold bool) string {
	end := 0
	for i, r := range text {
		next := i + len(string(r))
		if end > 0 && font.Width(text[:next], size, bold) > room {
			break
		}
		end = next
	}
	return text[:end]
}
