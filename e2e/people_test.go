package e2e

import (
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/webauthn"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
	"widetally/internal/demo"
	"widetally/internal/httpapi"
	"widetally/internal/identity"
	"widetally/internal/institution"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/service"
	"widetally/web"
)

// A team: who keeps the accounts signs in, invites somebody by a link and shares a study; the other one chooses a
// password, sees what her role lets her see, and is asked who she is again once her session is ended.
func TestATeam(t *testing.T) {
	t.Parallel()
	// Two names of one computer, so that two people sign in beside each other in one browser.
	hers, guests := "", ""
	address, cases, _ := serveTo(t, mariadbtest.Database(t), service.Options{}, web.Files(), func(address string, c *httpapi.Config) {
		hers = "http://" + strings.Replace(address, "127.0.0.1", "localhost", 1)
		guests = strings.Replace(hers, "localhost", "guest.localhost", 1)
		c.Origins = []string{"http://" + address, hers, guests}
		c.Institution = college(t, []string{hers}, identity.Person{Subject: "1", Name: "Ida", Email: "ida@tally.example"}, identity.Person{Subject: "2", Name: "Odd", Email: "odd@tally.example"})
	})
	const password = "quarry lantern seven herons"
	root, err := cases.People.AddAccount(t.Context(), "root@tally.example", "Rut Keeper", password, true)
	require.NoError(t, err)
	_, err = demo.Make(study.WithActor(t.Context(), root.Actor()), cases)
	require.NoError(t, err)

	p := open(t)
	p.visit(address + "/studies")
	p.sees("[data-test=sign-in]", "Sign in")
	p.gone(".shelf")
	p.fill("#sign-in-email", "root@tally.example")
	p.fill("#sign-in-password", "not the password at all")
	p.click("[data-test=sign-in] button[type=submit]")
	p.sees("[data-test=error]", "The email or the password is not right.")
	p.audited("sign in")
	p.fill("#sign-in-password", password)
	p.click("[data-test=sign-in] button[type=submit]")
	p.sees(".shelf", "Fernmouth")
	p.click("[data-test=account]")
	p.fill("[data-test=invite-name]", "Ida")
	p.fill("[data-test=invite-email]", "ida@tally.example")
	p.click("[data-test=invite]")
	p.sees("[data-test=invite-link]", "/invited/")
	link := p.read("[data-test=invite-link]")
	p.audited("account")
	p.visit(address + "/studies")
	p.click("[data-test=share]")
	p.sees("[data-test=share-dialog]", "Rut Keeper")
	p.fill("[data-test=share-email]", "ida@tally.example")
	p.click("[data-test=share-add]")
	p.sees("[data-test=share-dialog]", "Nobody with the email ida@tally.example has an account here. Invite them first.")
	p.audited("share")

	ida := open(t)
	_, path, _ := strings.Cut(strings.TrimPrefix(link, "http://"), "/")
	ida.visit(hers + "/" + path)
	ida.sees("main", "Welcome, Ida")
	ida.fill("#invited-password", "password1234")
	ida.click("main button[type=submit]")
	ida.sees("[data-test=error]", "This password is easily guessed.")
	ida.fill("#invited-password", "herons quarry lantern nine")
	ida.click("main button[type=submit]")
	ida.sees("main", "Start")
	ida.gone(".shelf")

	p.click("[data-test=share-add]")
	p.sees("[data-test=share-dialog] tbody", "Ida ida@tally.example")
	ida.visit(hers + "/studies/1")
	ida.sees("#q4 .tally", "Owns it")
	ida.visit(hers + "/studies/1/codebook")
	ida.sees("main", "tenure")

	// Whoever is given a link looks at the study, and at nothing else.
	p.choose("[data-test=link-shows]", "the topline")
	p.click("[data-test=link-make]")
	p.sees("[data-test=link]", "/shared/")
	shared := p.read("[data-test=link]")
	p.audited("links")
	guest := open(t)
	guest.visit(guests + shared[strings.Index(shared, "/shared/"):])
	guest.sees("#q4 .tally", "Owns it")
	guest.sees("[data-test=looking]", "You look at this by a link.")
	guest.gone(".rail")
	guest.gone("[data-test=leave-reading]")
	guest.gone("#q4 h2 .text")
	guest.audited("by a link")
	guest.visit(guests + "/studies")
	guest.sees("main", "You may not see or change this study.")
	guest.forgive(403)

	// What she asks bears her name; her session ends, and she is asked who she is where she was.
	accounts, err := cases.People.Accounts(t.Context())
	require.NoError(t, err)
	for _, a := range accounts {
		if a.Email == "ida@tally.example" {
			ctx := study.WithActor(t.Context(), a.Actor())
			sessions, err := cases.People.Sessions(ctx)
			require.NoError(t, err)
			require.Len(t, sessions, 1)
			require.NoError(t, cases.People.EndSession(ctx, sessions[0].Hash))
		}
	}
	ida.visit(hers + "/studies/1")
	ida.sees("[data-test=sign-in]", "Sign in")
	ida.gone("#q4")
	ida.click("[data-test=institution]")
	ida.sees("main", "Who are you?")
	ida.click("button[value='2']")
	ida.sees("[data-test=refused]", "Fernmouth College knows you, but nobody with your email has an account or an invitation here.")
	ida.visit(hers + "/studies/1")
	ida.click("[data-test=institution]")
	ida.click("button[value='1']")
	ida.sees("#q4 .tally", "Owns it")

	// A device signs her in without a password, until she takes its key away.
	_, err = chromedp.Call(ida.ctx, webauthn.Enable, webauthn.EnableParams{})
	require.NoError(t, err)
	_, err = chromedp.Call(ida.ctx, webauthn.AddVirtualAuthenticator, webauthn.AddVirtualAuthenticatorParams{Options: &webauthn.VirtualAuthenticatorOptions{Protocol: webauthn.AuthenticatorProtocolCtap2,
		Transport: webauthn.AuthenticatorTransportInternal, HasResidentKey: true, HasUserVerification: true, IsUserVerified: true, AutomaticPresenceSimulation: true}})
	require.NoError(t, err)
	ida.click("[data-test=account]")
	ida.fill("[data-test=passkey-name]", "Ida's slate")
	ida.click("[data-test=passkey-make]")
	ida.sees("[data-test=passkeys]", "Ida's slate", "not yet")
	ida.audited("passkeys")
	ida.click("[data-test=sign-out]")
	ida.click("[data-test=passkey]")
	ida.sees("[data-test=account]", "Ida")
	ida.gone("[data-test=sign-in]")
	ida.visit(hers + "/account")
	ida.pressWord("[data-test=passkeys]", "End it")
	ida.gone("[data-test=passkeys]")
	ida.click("[data-test=sign-out]")
	ida.click("[data-test=passkey]")
	ida.sees("[data-test=error]", "This passkey is not known here")
	ida.visit(hers + "/studies/1")
	ida.sees("[data-test=sign-in]", "Sign in with Fernmouth College")

	p.forgive(401)   // the wrong password
	p.forgive(422)   // nobody with that email
	ida.forgive(422) // the weak password
	ida.forgive(401) // the ended session
	at, err := chromedp.Run(ida.ctx, chromedp.Evaluate[string](`location.pathname`))
	require.NoError(t, err)
	assert.Equal(t, "/studies/1", at)
}

// college is a simulated institution that knows some people and sends them back to these addresses.
func college(t *testing.T, backs []string, known ...identity.Person) *institution.Institution {
	t.Helper()
	var handler http.Handler
	at := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { handler.ServeHTTP(w, r) }))
	t.Cleanup(at.Close)
	s := identity.Settings{Issuer: at.URL, People: known, ClientID: "widetally", ClientKey: "key"}
	for _, back := range backs {
		s.Redirects = append(s.Redirects, back+"/api/v1/session/institution/done")
	}
	var err error
	handler, err = identity.Handler(s)
	require.NoError(t, err)
	return institution.New(institution.Settings{Issuer: at.URL, Name: "Fernmouth College", ClientID: "widetally", ClientKey: "key"})
}

// The demo's team: each comes in by the simulated institution and is offered what they may do. The reader sees the study, the analyst
// states a claim that the owner sees at once, and finds it in the trail.
func TestTheDemosTeam(t *testing.T) {
	t.Parallel()
	at := map[string]string{}
	known := []identity.Person{}
	for _, one := range demo.Team {
		known = append(known, identity.Person{Subject: one.Email, Name: one.Name, Email: one.Email})
	}
	_, cases, _ := serveTo(t, mariadbtest.Database(t), service.Options{}, web.Files(), func(address string, c *httpapi.Config) {
		port := address[strings.LastIndex(address, ":"):]
		var back []string
		for _, one := range demo.Team {
			name, _, _ := strings.Cut(one.Email, "@")
			at[name] = "http://" + name + ".localhost" + port
			c.Origins = append(c.Origins, at[name])
			back = append(back, at[name])
		}
		c.Institution = college(t, back, known...)
	})
	require.NoError(t, demo.LoadTeam(t.Context(), cases, filepath.Join(t.TempDir(), "mark")))
	enter := func(name string) *page {
		p := open(t)
		p.visit(at[name] + "/studies/1")
		p.click("[data-test=institution]")
		p.click("button[value='" + name + "@fernmouth.example']")
		p.sees("#q4 .tally", "Owns it")
		p.forgive(401) // what was asked for before
		return p
	}
	odd := enter("odd")
	odd.gone("#q3 [data-test=more]")
	odd.gone("#q3 h2 .text")
	odd.audited("a reader's page")
	maren, sela := enter("maren"), enter("sela")
	sela.gone("#q3 h2 .text")
	sela.click("#q3 [data-test=ask-goodness-of-fit]")
	sela.choose("#q3 [data-test='shares.scale']", "all equal")
	sela.click("#q3 [data-test=state-run]")
	sela.sees("#q3 [data-test=finding]", "equally common")
	maren.sees("[data-test=told]", "Sela Quay: claim 16 added")
	maren.sees("#q3 [data-test=finding]", "equally common")
	odd.sees("#q3 [data-test=finding]", "equally common")
	maren.visit(at["maren"] + "/studies/1/trail")
	maren.sees("[data-test=trail] tbody tr:first-child", "Sela Quay", "claim 16 added", "in the browser, 127.0.0.1")
	maren.audited("the trail")
}
