package httpapi

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"strings"

	"github.com/gofiber/fiber/v3"
)

// decode reads a bounded JSON body, an object, into v. Members that are not known are
// refused, and so is null where a value belongs: it would be read as 0, as no text, or
// as an empty list, which nobody said.
func (s *server) decode(c fiber.Ctx, v any) error {
	if mediaType, _, _ := strings.Cut(c.Get(fiber.HeaderContentType), ";"); strings.TrimSpace(mediaType) != fiber.MIMEApplicationJSON {
		return &refusal{status: fiber.StatusUnsupportedMediaType, code: "media_type"}
	}
	raw, err := s.rawBody(c)
	if err != nil {
		return err
	}
	bad := func(code string, values map[string]string) error {
		return &refusal{status: fiber.StatusBadRequest, code: code, values: values}
	}
	switch raw = bytes.TrimSpace(raw); {
	case len(raw) == 0:
		return bad("empty_body", nil)
	case raw[0] != '{' && json.Valid(raw):
		return bad("not_an_object", nil)
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(v); err != nil {
		var kind *json.UnmarshalTypeError
		if errors.As(err, &kind) {
			return bad("wrong_type", map[string]string{"field": kind.Field, "found": kind.Value, "wanted": wanted(kind.Type)})
		}
		return bad("bad_json", map[string]string{"text": strings.TrimPrefix(err.Error(), "json: ")})
	}
	if d.More() {
		return bad("bad_json", map[string]string{"text": "more than one value"})
	}
	var plain any
	if err := json.Unmarshal(raw, &plain); err != nil {
		return bad("bad_json", map[string]string{"text": err.Error()})
	}
	if at, found := nullIn(plain, reflect.TypeOf(v).Elem()); found {
		return &refusal{status: fiber.StatusUnprocessableEntity, code: "null", values: map[string]string{"field": at}}
	}
	return nil
}

func (s *server) rawBody(c fiber.Ctx) ([]byte, error) {
	if !c.Request().IsBodyStream() {
		return c.BodyRaw(), nil
	}
	if c.Request().Header.ContentLength() > maxBody {
		return nil, &refusal{status: fiber.StatusRequestEntityTooLarge, code: "body_too_large"}
	}
	raw, err := io.ReadAll(io.LimitReader(s.upload(c), maxBody+1))
	if err == nil && len(raw) > maxBody {
		err = &refusal{status: fiber.StatusRequestEntityTooLarge, code: "body_too_large"}
	}
	return raw, err
}

// nullIn finds a null where type t needs a value, and says where: table[2][1], counted
// from 1. Members that may be lacking may be null.
func nullIn(v any, t reflect.Type) (at string, found bool) {
	if t.Kind() == reflect.Pointer {
		if v == nil {
			return "", false
		}
		t = t.Elem()
	}
	switch v := v.(type) {
	case nil:
		return "", true
	case []any:
		if t.Kind() != reflect.Slice && t.Kind() != reflect.Array {
			return "", false
		}
		for i, x := range v {
			if x == nil && t.Elem().Kind() != reflect.Pointer {
				return fmt.Sprintf("[%d]", i+1), true
			}
			if at, found := nullIn(x, t.Elem()); found {
				return fmt.Sprintf("[%d]", i+1) + joined(at), true
			}
		}
	case map[string]any:
		switch t.Kind() {
		case reflect.Map:
			for name, x := range v {
				if at, found := nullIn(x, t.Elem()); found {
					return name + joined(at), true
				}
			}
		case reflect.Struct:
			return nullMember(v, t)
		}
	}
	return "", false
}

func nullMember(v map[string]any, t reflect.Type) (at string, found bool) {
	for i := range t.NumField() {
		m := t.Field(i)
		if m.Anonymous && m.Type.Kind() == reflect.Struct {
			if at, found := nullMember(v, m.Type); found {
				return at, true
			}
			continue
		}
		name, _, _ := strings.Cut(m.Tag.Get("json"), ",")
		x, given := v[name]
		// A list that is null is one that is not given; lists within lists are not.
		if !given || x == nil && (m.Type.Kind() == reflect.Slice || m.Type.Kind() == reflect.Map) {
			continue
		}
		if at, found := nullIn(x, m.Type); found {
			return name + joined(at), true
		}
	}
	return "", false
}

func joined(at string) string {
	if at == "" || strings.HasPrefix(at, "[") {
		return at
	}
	return "." + at
}

// wanted names in JSON's words what a field takes.
func wanted(t reflect.Type) string {
	switch t.Kind() {
	case reflect.Int, reflect.Int64, reflect.Uint64:
		return "a whole number"
	case reflect.Float64:
		return "a number"
	case reflect.Bool:
		return "true or false"
	case reflect.Slice, reflect.Array:
		return "a list"
	case reflect.String:
		return "text"
	}
	return "an object"
}
