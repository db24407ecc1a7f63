package proof_test
import ("testing";"inklatch/internal/core/fixture";"inklatch/internal/core/proof";"inklatch/internal/core/engine")
func TestZZ(t *testing.T){ for _,n:=range procedures { d:=fixture.Document(n); for _,f:=range proof.Prove(engine.NewIndex(&d.Engine),&d.Procedure,proof.DefaultHouse()) { if f.Accepted=="" {t.Logf("%s [%s] %s — %s",n[:22],f.Rule,f.What,f.Why)} } } }
