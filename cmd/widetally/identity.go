package main

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/mail"
	"os"
	"time"

	"github.com/spf13/cobra"

	"widetally/internal/demo"
	"widetally/internal/identity"
	"widetally/internal/institution"
)

// identityCommand runs a simulated institution that tells who people are.
func identityCommand() *cobra.Command {
	var addr, client string
	var people, redirects []string
	c := &cobra.Command{
		Use: "identity", Short: "Serve a simulated institution by which people sign in, for trying it", Args: exactly(0),
		Example: `  WIDETALLY_INSTITUTION_KEY=… widetally identity --person "Ada Fenn <ada@tally.example>" --redirect https://tally.example`,
		RunE: func(c *cobra.Command, _ []string) error {
			key := os.Getenv("WIDETALLY_INSTITUTION_KEY")
			if key == "" || len(people) == 0 || len(redirects) == 0 {
				return usageError{errors.New("it needs --person, --redirect and a key in WIDETALLY_INSTITUTION_KEY")}
			}
			s := identity.Settings{ClientID: client, ClientKey: key}
			for i, text := range people {
				a, err := mail.ParseAddress(text)
				if err != nil {
					return usageError{fmt.Errorf("--person %q is not like \"Ada Fenn <ada@tally.example>\"", text)}
				}
				s.People = append(s.People, identity.Person{Subject: fmt.Sprintf("person-%d", i+1), Name: a.Name, Email: a.Address})
			}
			for _, at := range redirects {
				s.Redirects = append(s.Redirects, at+institutionBack)
			}
			listener, err := net.Listen("tcp", addr)
			if err != nil {
				return err
			}
			s.Issuer = "http://" + listener.Addr().String()
			fmt.Printf("A simulated institution is at %s\nCtrl-C stops it.\n", s.Issuer)
			return serveIdentity(c.Context(), listener, s)
		},
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8440", "address to listen on")
	c.Flags().StringVar(&client, "client", "widetally", "the id by which it knows the application")
	c.Flags().StringSliceVar(&people, "person", nil, "somebody whom it knows, with name and email")
	c.Flags().StringSliceVar(&redirects, "redirect", nil, "the address of the application, to which it sends people back")
	return c
}

// institutionBack is where a browser comes back to the application.
const institutionBack = "/api/v1/session/institution/done"

func serveIdentity(ctx context.Context, listener net.Listener, s identity.Settings) error {
	const patience = 10 * time.Second
	handler, err := identity.Handler(s)
	if err != nil {
		return err
	}
	server := &http.Server{Handler: handler, ReadHeaderTimeout: patience, ReadTimeout: patience, WriteTimeout: patience}
	stop := context.AfterFunc(ctx, func() { _ = server.Close() })
	defer stop()
	if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}

// simulatedInstitution starts one that knows the people of the demo.
func simulatedInstitution(ctx context.Context, origin string) (institution.Settings, error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return institution.Settings{}, err
	}
	s := identity.Settings{Issuer: "http://" + listener.Addr().String(), ClientID: "widetally", ClientKey: rand.Text(), Redirects: []string{origin + institutionBack}}
	for _, one := range demo.Team {
		s.People = append(s.People, identity.Person{Subject: one.Email, Name: one.Name, Email: one.Email})
	}
	go func() { _ = serveIdentity(ctx, listener, s) }()
	return institution.Settings{Issuer: s.Issuer, Name: demo.Institution, ClientID: s.ClientID, ClientKey: s.ClientKey}, nil
}
