package main

import (
	"errors"
	"fmt"

	"github.com/spf13/cobra"

	"widetally/internal/service"
)

// auditCommand looks after the audit trails of a data folder.
func auditCommand() *cobra.Command {
	var data string
	c := &cobra.Command{Use: "audit", Short: "Check that the audit trails are as they were written", Args: exactly(0), RunE: func(c *cobra.Command, _ []string) error { return c.Help() }}
	c.PersistentFlags().StringVar(&data, "data", ".data/serve", "folder for everything that is kept")
	verify := &cobra.Command{
		Use: "verify", Short: "Look through every trail, and print its last seal", Args: exactly(0), Example: "  widetally audit verify --data ~/surveys",
		Long: `Look through every trail. Each entry holds a seal over itself and all before it, so that none can be changed,
taken out or put in without its trail breaking. Whoever could write a whole trail anew is found by a seal that was
written down elsewhere: the last one of each trail is printed.`,
		RunE: func(c *cobra.Command, _ []string) error {
			return with(c, data, func(cases *service.Places) error {
				var broken error
				err := cases.Trails.Verify(c.Context(), func(studyID, entries uint64, seal string, fault error) {
					name := fmt.Sprintf("study %d", studyID)
					if studyID == 0 {
						name = "accounts"
					}
					state := "whole"
					if fault != nil {
						state, broken = fault.Error(), errors.Join(broken, fault)
					}
					fmt.Fprintf(c.OutOrStdout(), "%-12s %7d entries  %s  %s\n", name, entries, seal, state)
				})
				return errors.Join(err, broken)
			})
		},
	}
	c.AddCommand(verify)
	return c
}
