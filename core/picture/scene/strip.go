package scene

import "leitstand/core/picture"

func rectangle(x, y, w, h float64) []Point {
	return []Point{{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}}
}

// tab is a rectangle with its lower right corner cut off.
func tab(b box, cut float64) []Point {
	return []Point{
		{b.x, b.y},
		{b.x + b.w, b.y},
		{b.x + b.w, b.y + b.h - cut},
		{b.x + b.w - cut, b.y + b.h},
		{b.x, b.y + b.h},
	}
}

// sides are what a strip's form takes of its width, left and right.
func sides(kind picture.Kind) (left, right float64) {
	switch kind {
	case picture.Starts:
		return 3, 7
	case picture.Layer:
		return 3, 6
	case picture.Types:
		return 7, 3
	case picture.Waits:
		return 3, 7
	case picture.Lost:
		return 3, 10
	case picture.Two:
		return 6, 3
	default:
		return 3, 3
	}
}

// strip draws the strip of a kind: each has a form of its own, so that they are told apart without colours.
func (d *drawing) strip(kind picture.Kind, b box) {
	shape := Shape{Points: rectangle(b.x, b.y, b.w, b.h), Fill: Of(string(kind)), Line: Edge, Wide: 0.6}
	right, foot, middle := b.x+b.w, b.y+b.h, b.y+b.h/2
	add := func(s ...Shape) { d.Shapes = append(d.Shapes, s...) }
	line := func(wide float64, points ...Point) Shape {
		return Shape{Points: points, Line: Edge, Wide: wide, Open: true}
	}
	switch kind {
	case picture.Starts: // points onward
		shape.Points = []Point{{b.x, b.y}, {right - 6, b.y}, {right, middle}, {right - 6, foot}, {b.x, foot}}
		add(shape)
	case picture.Layer: // has another behind it
		add(
			Shape{Points: rectangle(b.x+4, b.y, b.w-4, b.h-3), Fill: shape.Fill, Line: Edge, Wide: 0.6},
			Shape{Points: rectangle(b.x, b.y+3, b.w-4, b.h-3), Fill: shape.Fill, Line: Edge, Wide: 0.6},
		)
	case picture.Modifier: // is held down: a heavy foot
		add(shape, line(2.4, Point{b.x, foot - 1}, Point{right, foot - 1}))
	case picture.Does: // has its corners off
		c := min(5, b.h/3)
		shape.Points = []Point{
			{b.x + c, b.y}, {right - c, b.y}, {right, b.y + c}, {right, foot - c}, {right - c, foot}, {b.x + c, foot},
			{b.x, foot - c}, {b.x, b.y + c},
		}
		add(shape)
	case picture.Types: // begins with a cursor
		add(shape, line(1.4, Point{b.x + 3.5, b.y + 3}, Point{b.x + 3.5, foot - 3}))
	case picture.Off: // is hatched
		edge := shape
		edge.Fill, shape.Line = "", ""
		add(shape)
		for x := b.x + 6; x < right+b.h; x += 6 {
			from, to := Point{x, b.y}, Point{x - b.h, foot}
			if over := from.X - right; over > 0 {
				from = Point{right, b.y + over}
			}
			if under := b.x - to.X; under > 0 {
				to = Point{b.x, foot - under}
			}
			add(Shape{Points: []Point{from, to}, Line: Paper, Wide: 1.6, Open: true})
		}
		add(edge)
	case picture.Two: // has a step
		add(shape, line(2.4, Point{b.x + 1.5, middle}, Point{b.x + 1.5, foot}))
	case picture.Waits: // is open to the right
		shape.Line = ""
		add(shape, line(0.8, Point{right, b.y}, Point{b.x, b.y}, Point{b.x, foot}, Point{right, foot}))
		for _, x := range []float64{right - 5, right - 2.5} {
			add(line(1, Point{x, middle - 1}, Point{x, middle + 1}))
		}
	case picture.Stock: // has dashes, and no colour
		shape.Dashed = true
		add(shape)
	case picture.Lost: // is dashed, and ends in a cross
		shape.Dashed, shape.Line, shape.Wide = true, Mark, 1.2
		cross := func(rise float64) Shape {
			return Shape{
				Points: []Point{
					{right - 8, middle + rise},
					{right - 3, middle - rise},
				}, Line: Mark, Wide: 1.4, Open: true,
			}
		}
		add(shape, cross(2.5), cross(-2.5))
	case picture.Key:
		add(shape)
	}
}
