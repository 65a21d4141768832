package report_test

import (
	"encoding/json"
	"flag"
	"maps"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/compare"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
	"leitstand/core/report"
)

var update = flag.Bool("update", false, "write the schemas; read them before committing")

// outputs are what commands print in JSON, by the names of their schemas.
var outputs = map[string]struct {
	command string
	value   any
}{
	"validate":      {"validate", report.Validation{}},
	"press":         {"press", report.Pressed{}},
	"press-find":    {"press --find", report.Search{}},
	"chords":        {"chords", report.Chords{}},
	"chords-free":   {"chords --free", report.Free{}},
	"keys":          {"keys", report.Keys{}},
	"diff-mappings": {"diff` of two mappings with `", report.Differences{}},
	"diff-folder":   {"diff` of a compiled folder with `", report.FolderDifferences{}},
	"import":        {"import", report.Imported{}},
	"apps":          {"apps", report.Apps{}},
	"draw":          {"draw", report.Drawn{}},
	"draw-caps":     {"draw --caps", report.Moving{}},
	"draw-compare":  {"draw --compare A B", report.Beside{}},
	"boards":        {"boards", report.Boards{}},
	"install":       {"install", report.Installation{}},
	"status":        {"status", report.Status{}},
}

// The published schemas are those of the types: a field that is added shows here.
func TestSchemas(t *testing.T) {
	published, err := filepath.Glob("../../docs/schema/*.json")
	require.NoError(t, err)
	assert.Len(t, published, len(outputs)+1, "each is one of these, or compile's, which says more than types do")
	for name, o := range outputs {
		root := schemaOf(t, reflect.TypeOf(o.value))
		root["$schema"] = "https://json-schema.org/draft/2020-12/schema"
		root["title"] = "What `leitstand " + strings.Replace(
			o.command+" --format json`",
			"` --format",
			" --format",
			1,
		) + " prints, version 1"
		if strings.Contains(o.command, "`") {
			root["title"] = "What `leitstand " + o.command + "--format json` prints, version 1"
		}
		root["description"] = "Within a version fields are added, and none is taken away or changes its meaning."
		text, err := json.MarshalIndent(root, "", "  ")
		require.NoError(t, err)
		path := filepath.Join("../../docs/schema", name+"-1.json")
		if *update {
			require.NoError(t, os.WriteFile(path, append(text, '\n'), 0o644))
		}
		want, err := os.ReadFile(path)
		require.NoError(t, err)
		assert.Equal(t, string(want), string(text)+"\n", "run go test ./core/report -update")
	}
}

// schemaOf is the schema of a type by its fields and their tags.
func schemaOf(t *testing.T, typ reflect.Type) map[string]any {
	t.Helper()
	switch typ {
	case reflect.TypeFor[mechanism.Verdict]():
		return map[string]any{"enum": []string{"unavailable", "needs-agent", "manual", "limited", "exact"}}
	case reflect.TypeFor[compare.Kind]():
		return map[string]any{"type": "string"}
	case reflect.TypeFor[time.Time]():
		return map[string]any{"type": "string", "format": "date-time"}
	case reflect.TypeFor[reason.Reason]():
		return map[string]any{
			"type": "object", "required": []string{"code", "kind", "text"}, "additionalProperties": false,
			"properties": map[string]any{
				"code": map[string]any{
					"type": "string",
				}, "kind": map[string]any{"enum": []string{"system", "mapping", "unwritten"}},
				"args": map[string]any{
					"type":                 "object",
					"additionalProperties": map[string]any{"type": "string"},
				}, "text": map[string]any{"type": "string"},
			},
		}
	}
	switch typ.Kind() {
	case reflect.Struct:
		required, properties := []string{}, map[string]any{}
		for i := range typ.NumField() {
			f := typ.Field(i)
			name, options, _ := strings.Cut(f.Tag.Get("json"), ",")
			if name == "-" {
				continue
			}
			if f.Anonymous && name == "" { // its fields stand among these
				of := schemaOf(t, f.Type)
				maps.Copy(properties, of["properties"].(map[string]any))
				required = append(required, of["required"].([]string)...)
				continue
			}
			require.NotEmpty(t, name, "%s.%s has no name in JSON", typ, f.Name)
			properties[name] = schemaOf(t, f.Type)
			if f.Name == "Version" {
				properties[name] = map[string]any{"const": report.Version}
			}
			if options != "omitempty" {
				required = append(required, name)
			}
		}
		return map[string]any{
			"type":                 "object",
			"required":             required,
			"additionalProperties": false,
			"properties":           properties,
		}
	case reflect.Slice:
		return map[string]any{"type": "array", "items": schemaOf(t, typ.Elem())}
	case reflect.Map:
		return map[string]any{"type": "object", "additionalProperties": schemaOf(t, typ.Elem())}
	case reflect.Pointer:
		return map[string]any{"anyOf": []any{schemaOf(t, typ.Elem()), map[string]any{"type": "null"}}}
	case reflect.Int, reflect.Int64:
		return map[string]any{"type": "integer"}
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.String:
		return map[string]any{"type": "string"}
	}
	t.Fatalf("no schema of %s", typ)
	return nil
}
