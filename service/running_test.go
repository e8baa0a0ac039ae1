package service_test

import (
	"bytes"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"log/slog"
	"math/big"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo/class"
	"hemble/service"
	"hemble/service/servicetest"
	"hemble/wire"
)

// certificate makes a certificate for this machine and its key, and gives their files and a pool that trusts it.
func certificate(t *testing.T) (cert, key string, pool *x509.CertPool) {
	secret, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	template := &x509.Certificate{SerialNumber: big.NewInt(1), NotBefore: time.Now().Add(-time.Hour),
		NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)}}
	der, err := x509.CreateCertificate(rand.Reader, template, template, &secret.PublicKey, secret)
	require.NoError(t, err)
	private, err := x509.MarshalPKCS8PrivateKey(secret)
	require.NoError(t, err)
	dir := t.TempDir()
	cert, key = filepath.Join(dir, "cert.pem"), filepath.Join(dir, "key.pem")
	public := pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der})
	require.NoError(t, os.WriteFile(cert, public, 0o600))
	require.NoError(t, os.WriteFile(key, pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: private}), 0o600))
	pool = x509.NewCertPool()
	require.True(t, pool.AppendCertsFromPEM(public))
	return cert, key, pool
}

// With a certificate of its own the service speaks TLS, and its cookies are for TLS alone.
func TestTLS(t *testing.T) {
	config := servicetest.Config(t.TempDir())
	var pool *x509.CertPool
	config.Cert, config.Key, pool = certificate(t)
	s, err := service.Start(t.Context(), config)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	c := client.New(s.URL(config), "")
	assert.Contains(t, c.Server, "https://")
	c.HTTP = &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: pool}}}
	_, err = c.SignIn(t.Context(), class.Instructor, class.Password)
	require.NoError(t, err)
	answer, err := c.HTTP.Post(c.Server+"/api/v1/session", "application/json",
		bytes.NewReader([]byte(`{"login": "instructor", "password": "wherry-lock"}`)))
	require.NoError(t, err)
	answer.Body.Close()
	assert.Contains(t, answer.Header.Get("Set-Cookie"), "Secure")
	assert.NotEmpty(t, answer.Header.Get("Strict-Transport-Security"))
	_, err = client.New("http://"+s.Address, "").SetUp(t.Context())
	assert.Error(t, err, "nothing goes in the clear")
}

// written collects a log.
type written struct {
	lock sync.Mutex
	text bytes.Buffer
}

func (w *written) Write(p []byte) (int, error) {
	w.lock.Lock()
	defer w.lock.Unlock()
	return w.text.Write(p)
}

// The log has every request with its id, and no password, token or link.
func TestLogsKeepSecrets(t *testing.T) {
	log := &written{}
	slog.SetDefault(slog.New(slog.NewJSONHandler(log, &slog.HandlerOptions{Level: slog.LevelDebug})))
	defer slog.SetDefault(slog.New(slog.DiscardHandler))
	_, c := servicetest.Start(t, t.TempDir())
	_, err := c.AddClass(t.Context(), "lock", "Lock")
	require.NoError(t, err)
	require.NoError(t, c.PutMember(t.Context(), "lock", "oke", wire.SetMember{Name: "R. Oke", Role: wire.Student}))
	link, err := c.MemberLink(t.Context(), "lock", "oke")
	require.NoError(t, err)
	student := client.New(c.Server, "")
	_, err = student.UseLink(t.Context(), link.Token, "a new password")
	require.NoError(t, err)
	token, err := c.NewToken(t.Context(), wire.NewToken{Name: "x", Scope: wire.ScopeAll, Days: 1})
	require.NoError(t, err)
	_, err = client.New(c.Server, "").SignIn(t.Context(), "oke", "a wrong password")
	var refused *client.Error
	require.ErrorAs(t, err, &refused)
	code, err := c.NewJoinCode(t.Context(), "lock")
	require.NoError(t, err)
	_, err = student.SubmissionPage(t.Context(), "lock", "none", client.Filter{Search: "a-private-query"})
	require.Error(t, err)
	log.lock.Lock()
	defer log.lock.Unlock()
	text := log.text.String()
	assert.Contains(t, text, refused.Request, "a problem's request is found in the log")
	assert.Contains(t, text, `"path":"/api/v1/link"`)
	assert.Contains(t, text, `"by":"instructor"`)
	for _, secret := range []string{class.Password, c.Token, student.Token, link.Token, token.Token, "a new password",
		"a wrong password", code.JoinCode, "a-private-query"} {
		assert.NotContains(t, text, secret)
	}
}
