package main

import (
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/resultjson"
	"widetally/internal/i18n"
	"widetally/internal/intake"
	"widetally/internal/terminal"
)

// What a result on the command line may take: seconds for an exact test.
const (
	commandSteps      = 200_000_000
	commandReplicates = 100_000
)

// analyse asks a file what a spec asks, with no database:
//
//	widetally analyse [-json] [-units households] spec.json answers.csv
func analyse(ctx context.Context, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("analyse", flag.ContinueOnError)
	asJSON := flags.Bool("json", false, "write the complete result as JSON")
	units := flags.String("units", "respondents", "what a row is, in the plural")
	if err := flags.Parse(args); err != nil {
		if errors.Is(err, flag.ErrHelp) {
			return nil
		}
		return err
	}
	if flags.NArg() != 2 {
		return errors.New("analyse takes a spec and a file of answers: widetally analyse spec.json answers.csv")
	}
	words, err := i18n.Load("en")
	if err != nil {
		return err
	}
	o, err := outcomeOf(ctx, flags.Arg(0), flags.Arg(1))
	var refused *analysis.SpecError
	var problem *intake.Problem
	switch {
	case errors.As(err, &refused):
		return fmt.Errorf("%s: %s (%s)", flags.Arg(0), words.Say(document.Say("problem."+refused.Code, refused.Values)), refused.Pointer)
	case errors.As(err, &problem):
		return fmt.Errorf("%s: %s, line %d", flags.Arg(1), problem.Code, problem.Line)
	case err != nil:
		return err
	case o.Refusal != nil:
		return o.Refusal
	}
	if *asJSON {
		raw, err := resultjson.Encode(o.Result)
		if err != nil {
			return err
		}
		_, err = fmt.Fprintln(out, string(raw))
		return err
	}
	return terminal.Write(out, o.Document(claim.About{Units: document.Text(*units)}), words)
}

func outcomeOf(ctx context.Context, specFile, dataFile string) (*analysis.Outcome, error) {
	raw, err := os.ReadFile(specFile)
	if err != nil {
		return nil, err
	}
	var spec analysis.Spec
	if err := json.Unmarshal(raw, &spec); err != nil {
		return nil, err
	}
	data, err := os.Open(dataFile)
	if err != nil {
		return nil, err
	}
	defer data.Close()
	info, err := data.Stat()
	if err != nil {
		return nil, err
	}
	file := intake.File{R: data, Size: info.Size()}
	settings, err := intake.Sniff(ctx, file)
	if err != nil {
		return nil, err
	}
	table, err := intake.Read(ctx, file, settings, nil)
	if err != nil {
		return nil, err
	}
	from, err := table.Source()
	if err != nil {
		return nil, err
	}
	counted, err := analysis.Count(ctx, spec, from)
	if err != nil {
		return nil, err
	}
	return analysis.Run(analysis.Work{Context: ctx, Steps: commandSteps, Replicates: commandReplicates}, spec, counted)
}
