// Package chart draws charts as SVG with the page's own module, in a script engine, so that
// a picture that leaves the application looks as it does in the page.
package chart

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"sync"

	"github.com/dop251/goja"
	lru "github.com/hashicorp/golang-lru/v2"
)

// ErrNotBuilt says that the program was built without the charts module.
var ErrNotBuilt = errors.New("chart: the program was built without its charts; run make build")

// Drawer draws charts. Safe for concurrent use; an engine draws one picture at a time.
type Drawer struct {
	script string
	once   sync.Once
	failed error
	// engines holds those that wait for work; the module is compiled once for all.
	module  *goja.Program
	engines chan *engine
	// drawn remembers pictures by what was drawn.
	drawn *lru.Cache[[sha256.Size]byte, string]
}

// mostDrawn bounds the pictures that are remembered, some ten kilobytes each.
const mostDrawn = 500

// enginesKept bounds the engines, which take some megabytes each.
const enginesKept = 2

type engine struct {
	vm   *goja.Runtime
	draw goja.Callable
}

// New makes a Drawer of the charts module; it starts with the first picture.
func New(script string) *Drawer {
	drawn, _ := lru.New[[sha256.Size]byte, string](mostDrawn) // fails for sizes below 1 only
	return &Drawer{script: script, engines: make(chan *engine, enginesKept), drawn: drawn}
}

// Built says whether the program was built with its charts.
func (d *Drawer) Built() bool { return d.script != "" }

func (d *Drawer) start() {
	if d.script == "" {
		d.failed = ErrNotBuilt
		return
	}
	if d.module, d.failed = goja.Compile("charts.js", d.script, false); d.failed != nil {
		return
	}
	for range enginesKept {
		var e *engine
		if e, d.failed = d.engine(); d.failed != nil {
			return
		}
		d.engines <- e
	}
}

// engine starts one. The module asks for timers, for animations that a still picture does
// not have.
func (d *Drawer) engine() (*engine, error) {
	vm := goja.New()
	for _, name := range []string{"setTimeout", "clearTimeout"} {
		if err := vm.Set(name, func(goja.FunctionCall) goja.Value { return goja.Undefined() }); err != nil {
			return nil, fmt.Errorf("chart: %w", err)
		}
	}
	if _, err := vm.RunProgram(d.module); err != nil {
		return nil, fmt.Errorf("chart: %w", err)
	}
	draw, ok := goja.AssertFunction(vm.Get("drawChart"))
	if !ok {
		return nil, errors.New("chart: the module draws nothing")
	}
	return &engine{vm, draw}, nil
}

// Draw draws a chart, in the form in which the page gets it, as SVG. A context that ends
// stops it.
func (d *Drawer) Draw(ctx context.Context, chart any) (string, error) {
	d.once.Do(d.start)
	if d.failed != nil {
		return "", d.failed
	}
	raw, err := json.Marshal(chart)
	if err != nil {
		return "", fmt.Errorf("chart: %w", err)
	}
	key := sha256.Sum256(raw)
	if known, ok := d.drawn.Get(key); ok {
		return known, nil
	}
	var e *engine
	select {
	case e = <-d.engines:
	case <-ctx.Done():
		return "", ctx.Err()
	}
	defer func() { d.engines <- e }()
	stop := context.AfterFunc(ctx, func() { e.vm.Interrupt(ctx.Err()) })
	defer e.vm.ClearInterrupt()
	defer stop()
	drawn, err := e.draw(goja.Undefined(), e.vm.ToValue(string(raw)))
	if err != nil {
		if ctx.Err() != nil {
			return "", ctx.Err()
		}
		return "", fmt.Errorf("chart: %w", err)
	}
	svg := drawn.String()
	d.drawn.Add(key, svg)
	return svg, nil
}
