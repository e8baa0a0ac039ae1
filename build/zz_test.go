package build
import ("testing";"hemble/core/bench";"hemble/core/clock";"os")
func BenchmarkZ(b *testing.B){
 name,parts:="scan.c",digits4
 if os.Getenv("P")!="" { name=os.Getenv("P"); for _,p:=range speedPrograms { if p.name==name {parts=p.bench} } }
 x,im:=prepared(b,name,parts); tr:=x.Trials[0]; tr.Length=clock.Never/2
 f,_:=bench.New(x,&tr,im,bench.Options{})
 for b.Loop(){ f.Advance(b.Context(), f.Now()+2*clock.Second) }
 b.ReportMetric(2*float64(b.N)/b.Elapsed().Seconds(),"×real")
}
