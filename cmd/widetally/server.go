package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"os"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"
)

// tokenVariable is the environment variable with the token of a script.
const tokenVariable = "WIDETALLY_TOKEN"

// serverFlag adds --server: a study of a server is worked on instead of a file.
func serverFlag(c *cobra.Command) {
	c.Flags().String("server", "", "the address of a server such as https://tally.example: FILE is then the number of a study there; the token is read from "+tokenVariable)
}

// serverOf is the server that a command works on; "" for none.
func serverOf(c *cobra.Command) (string, error) {
	at, err := c.Flags().GetString("server")
	if err != nil || at == "" {
		return "", nil //nolint:nilerr // a command without the flag has no server
	}
	u, err := url.Parse(strings.TrimSuffix(at, "/"))
	if err != nil || u.Host == "" || u.Path != "" {
		return "", usageError{fmt.Errorf("--server %s is no address such as https://tally.example", at)}
	}
	ip := net.ParseIP(u.Hostname())
	if here := u.Hostname() == "localhost" || ip != nil && ip.IsLoopback(); u.Scheme != "https" && !here {
		return "", usageError{fmt.Errorf("--server %s would send the token over a line that others read; use https", at)}
	}
	return u.Scheme + "://" + u.Host, nil
}

// serverTime bounds an answer of a server, a whole study too.
const serverTime = 10 * time.Minute

// fetch asks a server; path begins behind the root of its API. The answer is closed by who reads it.
func fetch(c *cobra.Command, server, path string) (io.ReadCloser, error) {
	r, err := http.NewRequestWithContext(c.Context(), http.MethodGet, server+"/api/v1"+path, nil)
	if err != nil {
		return nil, err
	}
	if token := os.Getenv(tokenVariable); token != "" {
		r.Header.Set("Authorization", "Bearer "+token)
	}
	client := &http.Client{Timeout: serverTime, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	resp, err := client.Do(r)
	if err != nil {
		return nil, err
	}
	if resp.StatusCode == http.StatusOK {
		return resp.Body, nil
	}
	defer resp.Body.Close()
	const most = 64 << 10
	var problem struct{ Title string }
	_ = json.NewDecoder(io.LimitReader(resp.Body, most)).Decode(&problem) // another server may say nothing
	if resp.StatusCode == http.StatusUnauthorized {
		return nil, fmt.Errorf("%s lets nobody in without a token that holds: make one under Account, and put it into %s", server, tokenVariable)
	}
	if problem.Title == "" {
		problem.Title = resp.Status
	}
	return nil, fmt.Errorf("%s: %s", server, problem.Title)
}

// fetched puts a study of a server into a file, which goes with its last reader.
func fetched(c *cobra.Command, server, number string) (*os.File, error) {
	if _, err := strconv.ParseUint(number, 10, 63); err != nil {
		return nil, usageError{fmt.Errorf("%q is no number of a study at %s; widetally studies --server lists them", number, server)}
	}
	body, err := fetch(c, server, "/studies/"+number+"/file")
	if err != nil {
		return nil, err
	}
	defer body.Close()
	f, err := os.CreateTemp("", "widetally-*")
	if err != nil {
		return nil, err
	}
	_ = os.Remove(f.Name()) // it goes with its last reader
	if _, err := io.Copy(f, body); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return f, nil
}

// studiesCommand lists the studies of a server.
func studiesCommand() *cobra.Command {
	c := &cobra.Command{
		Use: "studies", Short: "List the studies of a server, by the numbers that other commands take", Args: exactly(0),
		Example: "  export " + tokenVariable + "=…\n  widetally studies --server https://tally.example\n  widetally tally 3 tenure --server https://tally.example",
		RunE: func(c *cobra.Command, _ []string) error {
			server, err := serverOf(c)
			if err == nil && server == "" {
				err = usageError{errors.New("say with --server which server")}
			}
			if err != nil {
				return err
			}
			body, err := fetch(c, server, "/studies")
			if err != nil {
				return err
			}
			defer body.Close()
			var list struct {
				Studies []struct {
					ID          uint64
					Name, Units string
					Rows        int64
				}
			}
			if err := json.NewDecoder(body).Decode(&list); err != nil {
				return fmt.Errorf("%s does not answer as it should: %w", server, err)
			}
			for _, st := range list.Studies {
				fmt.Fprintf(c.OutOrStdout(), "%6d  %s (%d %s)\n", st.ID, st.Name, st.Rows, st.Units)
			}
			return nil
		},
	}
	serverFlag(c)
	return c
}
