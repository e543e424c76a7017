// Package resultjson turns the results of the core into JSON, and their types into schemas,
// by one set of rules, so that a field added to a result is part of the answer and of its
// description without further words.
//
// Names begin with a small letter; embedded structs are laid flat; a probability is its
// value with its common logarithm; exact fractions are texts; what is nil is null, but a
// nil slice is an empty list. A number that is not finite has no place in JSON: only the
// logarithm of a probability 0 and the ends of an interval without bound become null;
// anywhere else it is an error.
package resultjson

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"math/big"
	"reflect"
	"strconv"
	"strings"
	"unicode"

	"widetally/core/infer"
	"widetally/core/prob"
)

// NotFiniteError says which figure is beyond what a float64 can hold.
type NotFiniteError struct{ Field string }

func (e *NotFiniteError) Error() string { return "resultjson: " + e.Field + " is not finite" }

var (
	probType     = reflect.TypeFor[prob.Prob]()
	intervalType = reflect.TypeFor[infer.Interval]()
	ratType      = reflect.TypeFor[*big.Rat]()
	rawType      = reflect.TypeFor[json.Marshaler]()
)

// Encode writes v. The error is a *NotFiniteError.
func Encode(v any) (json.RawMessage, error) {
	var b bytes.Buffer
	if err := encode(&b, reflect.ValueOf(v), "result"); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

func encode(b *bytes.Buffer, v reflect.Value, at string) error {
	if !v.IsValid() {
		b.WriteString("null")
		return nil
	}
	switch t := v.Type(); {
	case t == probType:
		p := v.Interface().(prob.Prob)
		if math.IsNaN(p.Value) {
			return &NotFiniteError{at}
		}
		fmt.Fprintf(b, `{"value":%s,"log10":%s}`, number(p.Value), unbounded(p.Log10))
		return nil
	case t == intervalType:
		i := v.Interface().(infer.Interval)
		fmt.Fprintf(b, `{"lower":%s,"upper":%s}`, unbounded(i.Lower), unbounded(i.Upper))
		return nil
	case t == ratType && !v.IsNil():
		fmt.Fprintf(b, "%q", v.Interface().(*big.Rat).RatString())
		return nil
	case t.Implements(rawType) && !(t.Kind() == reflect.Pointer && v.IsNil()):
		raw, err := json.Marshal(v.Interface())
		b.Write(raw)
		return err
	}
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		return encode(b, v.Elem(), at)
	case reflect.Struct:
		return encodeStruct(b, v, at)
	case reflect.Slice, reflect.Array:
		b.WriteByte('[')
		for i := range v.Len() {
			if i > 0 {
				b.WriteByte(',')
			}
			if err := encode(b, v.Index(i), at+"."+strconv.Itoa(i)); err != nil {
				return err
			}
		}
		b.WriteByte(']')
	case reflect.Bool:
		b.WriteString(strconv.FormatBool(v.Bool()))
	case reflect.String:
		raw, _ := json.Marshal(v.String())
		b.Write(raw)
	case reflect.Float64:
		if math.IsNaN(v.Float()) || math.IsInf(v.Float(), 0) {
			return &NotFiniteError{at}
		}
		b.WriteString(number(v.Float()))
	case reflect.Int, reflect.Int64:
		b.WriteString(strconv.FormatInt(v.Int(), 10))
	case reflect.Uint64:
		b.WriteString(strconv.FormatUint(v.Uint(), 10))
	default:
		panic("resultjson: no rule for " + v.Type().String())
	}
	return nil
}

func encodeStruct(b *bytes.Buffer, v reflect.Value, at string) error {
	b.WriteByte('{')
	for k, i := range fields(v.Type()) {
		if k > 0 {
			b.WriteByte(',')
		}
		f := v.Type().FieldByIndex(i)
		if beside(f) {
			if err := encodeBeside(b, name(f), v.FieldByIndex(i)); err != nil {
				return err
			}
			continue
		}
		fmt.Fprintf(b, "%q:", name(f))
		if err := encode(b, v.FieldByIndex(i), at+"."+name(f)); err != nil {
			return err
		}
	}
	b.WriteByte('}')
	return nil
}

// beside reports whether a probability, or a pointer to one, is laid flat, by the tag beside:"log10": its value under its name
// and its logarithm under the name with Log10 behind it, both null where it is nil.
func beside(f reflect.StructField) bool {
	return f.Tag.Get("beside") == "log10"
}

const log10Suffix = "Log10"

func encodeBeside(b *bytes.Buffer, name string, v reflect.Value) error {
	value, log10 := "null", "null"
	if v.Kind() == reflect.Pointer {
		v = v.Elem()
	}
	if v.IsValid() {
		p := v.Interface().(prob.Prob)
		if math.IsNaN(p.Value) {
			return &NotFiniteError{name}
		}
		value, log10 = number(p.Value), unbounded(p.Log10)
	}
	fmt.Fprintf(b, "%q:%s,%q:%s", name, value, name+log10Suffix, log10)
	return nil
}

// fields lists the indexes of the exported fields, those of embedded structs in the place
// of these.
func fields(t reflect.Type) (out [][]int) {
	for i := range t.NumField() {
		f := t.Field(i)
		switch {
		case f.Anonymous && f.Type.Kind() == reflect.Struct:
			for _, inner := range fields(f.Type) {
				out = append(out, append([]int{i}, inner...))
			}
		case f.IsExported() && f.Tag.Get("json") != "-":
			out = append(out, []int{i})
		}
	}
	return out
}

// name is the name in a JSON tag, or the field's with its leading capitals made small: N,
// DF, GP and CohensW become n, df, gp and cohensW.
func name(f reflect.StructField) string {
	if tag, _, _ := strings.Cut(f.Tag.Get("json"), ","); tag != "" {
		return tag
	}
	r := []rune(f.Name)
	for i := range r {
		if !unicode.IsUpper(r[i]) || i > 0 && i+1 < len(r) && unicode.IsLower(r[i+1]) {
			break
		}
		r[i] = unicode.ToLower(r[i])
	}
	return string(r)
}

// number writes the shortest decimal that reads back as x.
func number(x float64) string {
	if x == 0 {
		return "0" // not −0
	}
	return strconv.FormatFloat(x, 'g', -1, 64)
}

func unbounded(x float64) string {
	if math.IsNaN(x) || math.IsInf(x, 0) {
		return "null"
	}
	return number(x)
}
