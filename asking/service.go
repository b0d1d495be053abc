package asking

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strconv"
	"strings"
	"syscall"
	"time"

	"grandledger/core/problem"
)

// Limits of a service.
const (
	maxAnswer     = 8 << 20 // bytes
	maxCandidates = 50      // kept of those offered for one query
	redirects     = 3
	tries         = 6
	longestPause  = 30 * time.Second
)

// Options say how a service is asked.
type Options struct {
	Batch  int           // queries of one request; 10 where it is 0
	AtOnce int           // requests under way; 4 where it is 0
	Limit  int           // candidates asked for; 10 where it is 0
	Wait   time.Duration // for one answer; 15 seconds where it is 0
	Pause  time.Duration // before a request is tried again, doubled each time; half a second where it is 0
	// Allow lists the addresses, as host:port, that are asked though they are private.
	Allow []string
}

// Service is an authority that is asked over HTTP.
type Service struct {
	base   *url.URL
	o      Options
	client *http.Client
}

// errPrivate says that an address is in a private range.
var errPrivate = errors.New("the address is private")

// Open takes the address of a service. It reaches nothing yet.
func Open(address string, o Options) (*Service, error) {
	u, err := url.Parse(strings.TrimSpace(address))
	if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" || u.User != nil {
		return nil, problem.New("Give it as http://host/path or https://host/path, without a name or password", "%q is not the address of a service", address)
	}
	o.Batch, o.AtOnce, o.Limit = or(o.Batch, 10), or(o.AtOnce, 4), or(o.Limit, 10)
	o.Wait, o.Pause = or(o.Wait, 15*time.Second), or(o.Pause, 500*time.Millisecond)
	s := &Service{base: u, o: o}
	dialer := &net.Dialer{Timeout: 5 * time.Second, Control: s.control}
	s.client = &http.Client{
		Timeout: o.Wait,
		Transport: &http.Transport{DialContext: dialer.DialContext, MaxIdleConnsPerHost: o.AtOnce, ResponseHeaderTimeout: o.Wait, MaxResponseHeaderBytes: 64 << 10, ForceAttemptHTTP2: true,
			Proxy: nil},
		CheckRedirect: func(r *http.Request, via []*http.Request) error {
			if len(via) > redirects || r.URL.Host != u.Host {
				return fmt.Errorf("it sends on to %s", r.URL.Host)
			}
			return nil
		},
	}
	return s, nil
}

func or[T comparable](v, usual T) T {
	var zero T
	if v == zero {
		return usual
	}
	return v
}

// control looks at the address that is really dialled, after any name was looked up, so that a name that points into a private network is refused too.
func (s *Service) control(_, address string, _ syscall.RawConn) error {
	host, port, err := net.SplitHostPort(address)
	if err != nil {
		return err
	}
	ip, err := netip.ParseAddr(host)
	if err != nil {
		return err
	}
	ip = ip.Unmap()
	for _, a := range s.o.Allow {
		if a == address || a == s.base.Host || a == net.JoinHostPort(ip.String(), port) {
			return nil
		}
	}
	if ip.IsPrivate() || ip.IsLoopback() || ip.IsLinkLocalUnicast() || ip.IsUnspecified() || ip.IsMulticast() || !ip.IsGlobalUnicast() || shared.Contains(ip) {
		return errPrivate
	}
	return nil
}

// shared is the range that carriers share (RFC 6598).
var shared = netip.MustParsePrefix("100.64.0.0/10")

// Host is the one that is asked.
func (s *Service) Host() string { return s.base.Host }

// failed says what a service did, and what to do.
func (s *Service) failed(remedy, what string, args ...any) error {
	return problem.New(remedy, "%s "+what, append([]any{s.base.Host}, args...)...)
}

// get asks for a document; form, where it is not nil, is posted. What is worth trying again is.
func (s *Service) get(ctx context.Context, u *url.URL, form url.Values, into any) error {
	pause := s.o.Pause
	for try := 1; ; try++ {
		again, after, err := s.once(ctx, u, form, into)
		if err == nil || !again || try == tries || ctx.Err() != nil {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			return err
		}
		wait := max(after, pause+time.Duration(rand.Int64N(int64(pause)/2+1)))
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(min(wait, longestPause)):
		}
		pause *= 2
	}
}

// once asks once. again says that it is worth another try, after at least so long.
func (s *Service) once(ctx context.Context, u *url.URL, form url.Values, into any) (again bool, after time.Duration, err error) {
	method, body := http.MethodGet, io.Reader(nil)
	if form != nil {
		method, body = http.MethodPost, strings.NewReader(form.Encode())
	}
	r, err := http.NewRequestWithContext(ctx, method, u.String(), body)
	if err != nil {
		return false, 0, err
	}
	r.Header.Set("Accept", "application/json")
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	got, err := s.client.Do(r)
	switch {
	case errors.Is(err, errPrivate):
		return false, 0, s.failed("Let the operator allow it, if it is meant", "is in a private network, which is not asked")
	case err != nil && strings.Contains(err.Error(), "it sends on to"):
		return false, 0, s.failed("Give the address it sends on to, if that is meant", "does not answer itself: %s", err.Error()[strings.Index(err.Error(), "it sends on to"):])
	case err != nil:
		return !errors.Is(err, syscall.ECONNREFUSED), 0, s.failed("Try again later; what was answered is kept", "does not answer: %s", reason(err))
	}
	defer got.Body.Close()
	switch {
	case got.StatusCode == http.StatusTooManyRequests || got.StatusCode == http.StatusServiceUnavailable:
		seconds, _ := strconv.Atoi(got.Header.Get("Retry-After"))
		return true, time.Duration(max(seconds, 0)) * time.Second, s.failed("Try again later; what was answered is kept", "asks to slow down (%s)", got.Status)
	case got.StatusCode >= 500:
		return true, 0, s.failed("Try again later; what was answered is kept", "has trouble (%s)", got.Status)
	case got.StatusCode != http.StatusOK:
		return false, 0, s.failed("Look whether the address is that of a reconciliation service", "answers %s", got.Status)
	}
	raw, err := io.ReadAll(io.LimitReader(got.Body, maxAnswer+1))
	if err != nil {
		return true, 0, s.failed("Try again later; what was answered is kept", "broke off its answer: %s", reason(err))
	}
	if len(raw) > maxAnswer {
		return false, 0, s.failed("Ask for fewer candidates at once", "answers with more than 8 MiB")
	}
	if err := json.Unmarshal(raw, into); err != nil {
		return false, 0, s.failed("Look whether the address is that of a reconciliation service", "answers with something else than JSON of the protocol (%.40q)", string(raw[:min(len(raw), 40)]))
	}
	return false, 0, nil
}

// reason is the inner one of an error, without the address.
func reason(err error) string {
	var u *url.Error
	if errors.As(err, &u) {
		if u.Timeout() {
			return "no answer in time"
		}
		err = u.Err
	}
	return err.Error()
}
