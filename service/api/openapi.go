package api

import (
	"encoding/json"
	"path"
	"reflect"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/invopop/jsonschema"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/judge"
	"hemble/core/schematic"
	"hemble/core/sheet"
	"hemble/service/web"
	"hemble/wire"
)

func (a *API) openAPI(*web.Request) (any, error) { return OpenAPI(), nil }

// OpenAPI is the document of the API (OpenAPI 3.1), made from the table of its calls.
func OpenAPI() json.RawMessage {
	document.Do(func() { documented = describe() })
	return documented
}

var (
	document   sync.Once
	documented json.RawMessage
)

func describe() json.RawMessage {
	schemas := map[string]any{}
	paths := map[string]map[string]any{}
	for _, route := range Routes() {
		at := "/api/v1" + parameter.ReplaceAllString(route.Path, "{$1}")
		if paths[at] == nil {
			paths[at] = map[string]any{}
		}
		paths[at][strings.ToLower(route.Method)] = operation(&route, schemas)
	}
	reference(reflect.TypeFor[wire.Problem](), schemas)
	text, err := json.Marshal(map[string]any{
		"openapi": "3.1.0",
		"info": map[string]any{"title": "Hemble", "version": "1",
			"description": "Checks students' display firmware. Sign in with POST /session and send the token as Authorization: Bearer, or use a personal token; a browser has a cookie. Every answer that is not a success is application/problem+json. Times that are numbers are in " +
				clock.Unit + ", but where a parameter says otherwise."},
		"paths": paths,
		"components": map[string]any{
			"schemas": schemas,
			"securitySchemes": map[string]any{"token": map[string]any{"type": "http", "scheme": "bearer"},
				"cookie": map[string]any{"type": "apiKey", "in": "cookie", "name": web.CookieName}},
		},
	})
	if err != nil {
		panic(err) // it is made of plain data
	}
	return text
}

var parameter = regexp.MustCompile(`:([a-z]+)`)

// who tells in words who may use a route.
var who = map[web.Access]string{web.Anyone: "anyone", web.SignedIn: "every account",
	web.Themselves: "every account, in a session", web.Instructors: "instructors", web.Admins: "admins",
	web.Members: "members of the class",
	web.Owner:   "the student whose it is, and those who mark the class",
	web.Staff:   "instructors and assistants of the class", web.ClassInstructors: "instructors of the class"}

func operation(route *web.Route, schemas map[string]any) map[string]any {
	text := func(media string, schema any) map[string]any {
		return map[string]any{strings.Split(media, ";")[0]: map[string]any{"schema": schema}}
	}
	success := map[string]any{"description": "success"}
	switch {
	case route.Gives != "":
		success["content"] = text(route.Gives, map[string]any{"type": "string"})
	case route.Answer != nil:
		success["content"] = text(web.MediaJSON, reference(reflect.TypeOf(route.Answer), schemas))
	}
	out := map[string]any{
		"operationId": strings.Trim(parameter.ReplaceAllString(strings.ReplaceAll(strings.ToLower(route.Method)+
			route.Path, "/", "-"), "$1"), "-"),
		"summary":     route.Doc,
		"description": "For " + who[route.Access] + ".",
		"responses": map[string]any{
			strconv.Itoa(route.Success()): success,
			"default": map[string]any{"description": "a problem",
				"content": text(web.MediaProblem, reference(reflect.TypeFor[wire.Problem](), schemas))},
		},
	}
	if route.Access != web.Anyone {
		out["security"] = []any{map[string]any{"token": []any{}}, map[string]any{"cookie": []any{}}}
	}
	var parameters []any
	for _, m := range parameter.FindAllStringSubmatch(route.Path, -1) {
		parameters = append(parameters, map[string]any{"name": m[1], "in": "path", "required": true,
			"schema": map[string]any{"type": "string"}})
	}
	for _, q := range route.Query {
		parameters = append(parameters, map[string]any{"name": q.Name, "in": "query", "description": q.Doc,
			"schema": map[string]any{"type": "string"}})
	}
	if parameters != nil {
		out["parameters"] = parameters
	}
	switch {
	case route.Takes == web.MediaForm:
		out["requestBody"] = map[string]any{"required": true, "content": text(web.MediaForm, fieldsOf(route.Form))}
	case route.Takes != "":
		out["requestBody"] = map[string]any{"required": true,
			"content": text(route.Takes, map[string]any{"type": "string"})}
	case route.Body != nil:
		out["requestBody"] = map[string]any{"required": true,
			"content": text(web.MediaJSON, reference(reflect.TypeOf(route.Body), schemas))}
	}
	return out
}

// fieldsOf is the schema of a form.
func fieldsOf(form []web.Field) map[string]any {
	properties, required := map[string]any{}, []any{}
	for _, f := range form {
		kind := map[string]any{"type": "string"}
		if f.File {
			kind["contentMediaType"] = web.MediaBytes
		}
		properties[f.Name] = kind
		if f.Required {
			required = append(required, f.Name)
		}
	}
	return map[string]any{"type": "object", "properties": properties, "required": required}
}

var generic = regexp.MustCompile(`^Page\[.*\.(\w+)\]$`)

// schemaName names a schema: types of the API by their own names, those of the core with that of their package, too.
func schemaName(t reflect.Type) string {
	if m := generic.FindStringSubmatch(t.Name()); m != nil {
		return m[1] + "Page"
	}
	folder, name := path.Split(t.PkgPath())
	if folder == "" { // of the language
		return t.Name()
	}
	if pkg := strings.ToUpper(name[:1]) + name[1:]; strings.HasSuffix(folder, "/core/") && pkg != t.Name() {
		return pkg + t.Name()
	}
	return t.Name()
}

// written are the types whose JSON differs from their Go structure, or whose unit must be stated.
var written = map[reflect.Type]func() *jsonschema.Schema{
	reflect.TypeFor[json.Number]():     kindOf("number"),
	reflect.TypeFor[sheet.Marks]():     kindOf("number"),
	reflect.TypeFor[json.RawMessage](): kindOf("object"), // documents with formats of their own
	reflect.TypeFor[time.Time](): func() *jsonschema.Schema {
		return &jsonschema.Schema{Type: "string",
			Format: "date-time"}
	},
	reflect.TypeFor[clock.Time](): func() *jsonschema.Schema {
		return &jsonschema.Schema{Type: "integer", Description: "picoseconds; a point in time counts from power-on"}
	},
	reflect.TypeFor[display.Lights]():   kindOf("string"),
	reflect.TypeFor[judge.Outcome]():    func() *jsonschema.Schema { return oneOf(judge.Outcomes) },
	reflect.TypeFor[judge.Operation]():  func() *jsonschema.Schema { return oneOf(judge.Operations) },
	reflect.TypeFor[display.TypeName](): func() *jsonschema.Schema { return oneOf(display.TypeNames()) },
	reflect.TypeFor[schematic.Anchor](): func() *jsonschema.Schema { return oneOf(schematic.Anchors) },
}

func kindOf(kind string) func() *jsonschema.Schema {
	return func() *jsonschema.Schema { return &jsonschema.Schema{Type: kind} }
}

func oneOf[T ~string](words []T) *jsonschema.Schema {
	s := &jsonschema.Schema{Type: "string"}
	for _, w := range words {
		s.Enum = append(s.Enum, string(w))
	}
	return s
}

// reference gives a schema that refers to that of a type, which it adds to the others.
func reference(t reflect.Type, schemas map[string]any) any {
	if w := written[t]; w != nil {
		return w()
	}
	switch t.Kind() {
	case reflect.Slice, reflect.Array:
		return map[string]any{"type": "array", "items": reference(t.Elem(), schemas)}
	case reflect.Struct:
	default:
		return map[string]any{"type": "integer"}
	}
	r := jsonschema.Reflector{Anonymous: true, Namer: schemaName, Mapper: func(t reflect.Type) *jsonschema.Schema {
		if w := written[t]; w != nil {
			return w()
		}
		return nil
	}}
	text, err := json.Marshal(r.ReflectFromType(t))
	if err != nil {
		panic(err) // the types are plain
	}
	var root struct {
		Defs map[string]any `json:"$defs"`
	}
	if err := json.Unmarshal([]byte(strings.ReplaceAll(string(text), "#/$defs/", "#/components/schemas/")),
		&root); err != nil {
		panic(err)
	}
	for name, s := range root.Defs {
		schemas[name] = s
	}
	return map[string]any{"$ref": "#/components/schemas/" + schemaName(t)}
}
