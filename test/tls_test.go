package test

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"math/big"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
)

// HTTPS from certificate files: cookies are for it alone, and browsers are told.
func TestServedByHTTPS(t *testing.T) {
	bin, data := program(t), folder(t)
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	template := &x509.Certificate{SerialNumber: big.NewInt(1), NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)}}
	der, err := x509.CreateCertificate(rand.Reader, template, template, &key.PublicKey, key)
	require.NoError(t, err)
	raw, err := x509.MarshalPKCS8PrivateKey(key)
	require.NoError(t, err)
	cert, private := filepath.Join(data, "cert.pem"), filepath.Join(data, "key.pem")
	require.NoError(t, os.WriteFile(cert, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o600))
	require.NoError(t, os.WriteFile(private, pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: raw}), 0o600))
	s := serve(t, bin, data, "demo", "INKLATCH_TLS_CERT="+cert, "INKLATCH_TLS_KEY="+private)
	require.True(t, strings.HasPrefix(s.url, "https://"), s.url)
	pool := x509.NewCertPool()
	pool.AppendCertsFromPEM(pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}))
	c := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: pool}}, Timeout: 20 * time.Second}
	res, err := c.Post(s.url+"/api/session", "application/json", strings.NewReader(`{"email":"ines@tarn.example","password":"`+demo.Password+`"}`))
	require.NoError(t, err)
	res.Body.Close()
	require.Len(t, res.Cookies(), 1)
	assert.True(t, res.Cookies()[0].Secure)
	assert.NotEmpty(t, res.Header.Get("Strict-Transport-Security"))
	s.stop(t)
	bad := exec.Command(bin, "serve")
	bad.Env = append(os.Environ(), "INKLATCH_DATA="+data, "DATABASE_URL=", "INKLATCH_TLS_CERT="+cert, "INKLATCH_TLS_KEY=")
	out, err := bad.CombinedOutput()
	assert.Error(t, err)
	assert.Contains(t, string(out), "go together")
}
