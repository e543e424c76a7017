package main

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"widetally/core/document"
	"widetally/internal/service"
)

// userCommand keeps the accounts of a data folder.
func userCommand() *cobra.Command {
	var data string
	c := &cobra.Command{Use: "user", Short: "Make accounts for people who sign in", Args: exactly(0), RunE: func(c *cobra.Command, _ []string) error { return c.Help() }}
	c.PersistentFlags().StringVar(&data, "data", ".data/serve", "folder for everything that is kept")
	var name string
	var ordinary bool
	with := func(use, short string, do func(c *cobra.Command, cases *service.Places, args []string) error) *cobra.Command {
		return &cobra.Command{Use: use, Short: short, RunE: func(c *cobra.Command, args []string) error {
			if want := strings.Count(use, " "); len(args) != want {
				return usageError{fmt.Errorf("it goes like this: widetally user %s", use)}
			}
			words, err := wordsOf(c)
			if err != nil {
				return err
			}
			cases, _, closeAll, err := open(c.Context(), words, data, "", usualMemory)
			if err != nil {
				return err
			}
			defer closeAll()
			err = do(c, cases, args)
			var wrong *service.InvalidError
			if errors.As(err, &wrong) {
				return usageError{errors.New(words.Say(document.Say("problem."+wrong.Code, wrong.Values)))}
			}
			return err
		}}
	}
	add := with("add EMAIL", "Make an account, which keeps the others unless --ordinary is said", func(c *cobra.Command, cases *service.Places, args []string) error {
		password, err := passwordFrom(c)
		if err != nil {
			return err
		}
		called := name
		if called == "" {
			called, _, _ = strings.Cut(args[0], "@")
		}
		a, err := cases.People.AddAccount(c.Context(), args[0], called, password, !ordinary)
		if err == nil {
			fmt.Fprintf(c.OutOrStdout(), "%s (%s) can sign in.\n", a.Name, a.Email)
		}
		return err
	})
	add.Long, add.Example = "Make an account. The password is asked for, or read as the first line of a pipe. Others are invited on the page.", "  widetally user add ada@tally.example --name Ada"
	list := with("list", "List the accounts", func(c *cobra.Command, cases *service.Places, _ []string) error {
		all, err := cases.People.Accounts(c.Context())
		for _, a := range all {
			state := ""
			if a.Administrator {
				state = "keeps the accounts"
			}
			if a.DisabledAt != nil {
				state = "closed"
			}
			fmt.Fprintf(c.OutOrStdout(), "%-30s %-24s %s\n", a.Email, a.Name, state)
		}
		return err
	})
	reset := with("password EMAIL", "Give somebody another password; their sessions end", func(c *cobra.Command, cases *service.Places, args []string) error {
		password, err := passwordFrom(c)
		if err != nil {
			return err
		}
		return cases.People.ResetPassword(c.Context(), args[0], password)
	})
	shut := with("close EMAIL", "Close an account; what its owner made stays", func(c *cobra.Command, cases *service.Places, args []string) error {
		return cases.People.Close(c.Context(), args[0], true)
	})
	reopen := with("open EMAIL", "Open a closed account again", func(c *cobra.Command, cases *service.Places, args []string) error {
		return cases.People.Close(c.Context(), args[0], false)
	})
	c.AddCommand(list, reset, shut, reopen)
	add.Flags().StringVar(&name, "name", "", "the name that others read; the part of the email before @ where it is left out")
	add.Flags().BoolVar(&ordinary, "ordinary", false, "an account that does not keep the others")
	c.AddCommand(add)
	return c
}

// passwordFrom asks for a password, which is not shown, or reads one from a pipe.
func passwordFrom(c *cobra.Command) (string, error) {
	if in, ok := c.InOrStdin().(*os.File); ok && term.IsTerminal(int(in.Fd())) {
		fmt.Fprint(c.ErrOrStderr(), "Password: ")
		raw, err := term.ReadPassword(int(in.Fd()))
		fmt.Fprintln(c.ErrOrStderr())
		return string(raw), err
	}
	line, err := bufio.NewReader(c.InOrStdin()).ReadString('\n')
	if err != nil && !errors.Is(err, io.EOF) {
		return "", err
	}
	return strings.TrimRight(line, "\r\n"), nil
}
