// Command widetally serves the application, and answers at the terminal what needs neither
// browser nor database. `widetally help` lists what there is.
//
// Environment: WIDETALLY_DSN names a MariaDB to use instead of a private server;
// WIDETALLY_INSTITUTION_KEY is the key by which an institution knows this application;
// WIDETALLY_HOSTS lists further host names under which the application is reached.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"

	"widetally/core/methods"
	"widetally/internal/i18n"
	"widetally/locales"
)

// registry holds the methods that can be asked.
var registry = methods.All()

// Exit codes.
const (
	exitFailed  = 1 // what was asked could not be done
	exitUsage   = 2 // it was not asked as it can be
	exitPartial = 3 // it was done, and something was left out
)

// usageError says that a command was not asked as it can be.
type usageError struct{ error }

// errPartial says that something was left out, which has been told.
var errPartial = errors.New("something was left out")

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
	err := root().ExecuteContext(ctx)
	stop()
	os.Exit(exitOf(err))
}

func exitOf(err error) int {
	var usage usageError
	switch {
	case err == nil:
		return 0
	case errors.Is(err, errPartial):
		return exitPartial
	case errors.As(err, &usage):
		fmt.Fprintln(os.Stderr, "widetally:", err)
		return exitUsage
	}
	fmt.Fprintln(os.Stderr, "widetally:", err)
	return exitFailed
}

// root is the program with its commands.
func root() *cobra.Command {
	c := &cobra.Command{
		Use:   "widetally",
		Short: "Tabulate questionnaire answers and test them, in the browser or here",
		Long: `Wide Tally tabulates questionnaire answers and tests them against expected shares.

Exit codes: 0 all done, 1 it could not be done, 2 it was not asked as it can be,
3 done, with something left out that is told.`,
		SilenceUsage: true, SilenceErrors: true,
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) > 0 {
				return usageError{fmt.Errorf("there is no command %q; widetally help lists them", args[0])}
			}
			return nil
		},
		RunE: func(c *cobra.Command, _ []string) error { return c.Help() },
	}
	c.PersistentFlags().String("language", locales.First, "the language of what is written, such as en")
	c.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return usageError{err} })
	c.AddCommand(serveCommand(false), serveCommand(true), officeCommand(), identityCommand(), runCommand(), recipeCommand(), userCommand(), auditCommand(), studiesCommand(), tallyCommand(), crossCommand(), testCommand(), analyseCommand(), computeCommand(), exportCommand(), backupCommand(), restoreCommand())
	return c
}

// exactly asks for so many arguments, and says how the command goes.
func exactly(n int) cobra.PositionalArgs {
	return func(c *cobra.Command, args []string) error {
		if len(args) != n {
			return usageError{fmt.Errorf("it goes like this: widetally %s", c.Use)}
		}
		return nil
	}
}

// wordsOf is the catalogue of the language that is asked for.
func wordsOf(c *cobra.Command) (*i18n.Catalogue, error) {
	all, err := languagesOf(c)
	if err != nil {
		return nil, err
	}
	return all.First().AtTerminal(), nil
}

// languagesOf are all catalogues, that of the language that is asked for first.
func languagesOf(c *cobra.Command) (*i18n.Languages, error) {
	lang, err := c.Flags().GetString("language")
	if err != nil {
		return nil, err
	}
	all, err := i18n.LoadAll(lang)
	if err != nil {
		return nil, usageError{err}
	}
	return all, nil
}
