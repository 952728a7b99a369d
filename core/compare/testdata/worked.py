# Independent of the program: mpmath with 40 digits, numerical integration for the median's efficiency.
import json, random
from mpmath import mp, mpf, log, exp, sqrt, quad, erfc, pi, inf, gamma, hyp2f1, findroot, betainc
mp.dps = 30
def phi(x): return exp(-x*x/2)/sqrt(2*pi)
def Phi(x): return erfc(-x/sqrt(2))/2
K={}
def kappa(n):
    if n<=2: return mpf(1)
    if n in K: return K[n]
    from math import factorial
    if n%2:
        m=(n-1)//2
        c=mpf(factorial(n))/(factorial(m)**2)
        v=quad(lambda x:x*x*c*(Phi(x)*Phi(-x))**m*phi(x),[-9,-4,-2,0,2,4,9])
    else:
        m=n//2-1
        c=mpf(factorial(n))/(factorial(m)**2)
        mp.dps=18
        f=lambda a,h: ((a)**2)*c*(Phi(a-h)*Phi(-(a+h)))**m*phi(a-h)*phi(a+h)*2
        v=2*quad(lambda a: quad(lambda h:f(a,h),[0,1,3,8]),[0,1,3,8])
        mp.dps=30
    K[n]=n*v
    return K[n]
def tcdf_upper(t,nu):
    x=nu/(nu+t*t)
    return betainc(nu/2,mpf(1)/2,0,x,regularized=True)/2
def tq(p,nu):
    import math
    z=mpf('1.96')
    return findroot(lambda t: tcdf_upper(t,nu)-(1-p),(z*mpf('0.9'),z*mpf('1.5')),solver='anderson',tol=1e-25)
PRI={"timed":("0.04","0.02"),"drive":("0.02","0.015"),"file":("0.06","0.025")}
def median(v):
    v=sorted(v); n=len(v); return (v[(n-1)//2]+v[n//2])/2
def side(kind,sittings,us,fresh,pri):
    # sittings: list of lists of values; us: flat list of u
    s0,b0,w0=pri
    vals=[mpf(x) for s in sittings for x in s]
    N=len(vals); J=len(sittings)
    logs=[[log(mpf(x)) for x in s] for s in sittings]
    means=[sum(l)/len(l) for l in logs]
    SS=sum((y-m)**2 for l,m in zip(logs,means) for y in l)
    sw=(w0*s0**2+SS)/(w0+N-J); nw=w0+N-J
    if J==1: sb=b0**2; nb=w0
    else:
        mm=sum(means)/J
        var=sum((m-mm)**2 for m in means)/(J-1)
        s2=var-sw*sum(mpf(1)/len(l) for l in logs)/J
        if s2<0: s2=mpf(0)
        sb=(w0*b0**2+(J-1)*s2)/(w0+J-1); nb=w0+J-1
    u=median([mpf(a)/v for a,v in zip(us,vals)])
    return dict(N=N,J=J,c=median(vals),mn=min(vals),mx=max(vals),sw=sw,nw=nw,sb=sb,nb=nb,u=u,fresh=fresh,counts=[len(s) for s in sittings])
def parts(s,k=0):
    counts=list(s['counts']); counts[-1]+=k; N=sum(counts)
    w=kappa(N)*s['sw']/N
    b=s['sb']*sum((mpf(c)/N)**2 for c in counts)
    i=s['u']**2/(N if s['fresh'] else 1)
    return [(w,s['nw']+k),(b,s['nb']),(i,None)]
def patil(cs):
    A=mpf(0);Q=mpf(0)
    for c,n in cs:
        if n is None: A+=c
        else:
            v=c*n/(n-2); A+=v; Q+=v*v/(n-4)
    f=4+A*A/Q
    return sqrt(A*(f-2)/f),f
def half(cs):
    s,f=patil(cs); return tq(mpf('0.975'),f)*s
def pval(cs,x):
    s,f=patil(cs); return 2*tcdf_upper(abs(x)/s,f)
def ratio(better,a,b,ka=0,kb=0):
    F=a['c']/b['c'] if better=='lower' else b['c']/a['c']
    cs=parts(a,ka)+parts(b,kb)
    h=half(cs); s,f=patil(cs)
    return F,F*exp(-h),F*exp(h),pval(cs,log(F)),f
def fl(x): return None if x is None else float(x)
random.seed(7)
out=[]
for case in range(8):
    pri={}
    spread=None
    if case in (3,6):
        spread={"timed":{"within":0.03,"between":0.05,"weight":9},"drive":{"within":0.01,"between":0.02,"weight":4.5}}
    for k in PRI:
        if spread and k in spread:
            pri[k]=(mpf(str(spread[k]["within"])),mpf(str(spread[k]["between"])),mpf(str(spread[k]["weight"])))
        else: pri[k]=(mpf(PRI[k][0]),mpf(PRI[k][1]),mpf(6))
    tests=[]
    names=[("start","timed","s","lower",7,"start"),("launch","timed","s","lower",21,""),("restart","timed","s","lower",7,"start"),("copy","file","s","lower",2,""),("scattered","drive","IOPS","higher",0,""),("long","drive","MB/s","higher",0,"")]
    if case==0: names=names[:1]
    if case==5: names=names[:1]+names[4:]
    lines=[]
    for (id,kind,unit,better,pw,occ) in names:
        base=random.uniform(5,90)
        gain=random.choice([1.0,1.05,1.3,2.5,0.9]) if kind!="drive" else random.choice([1.1,4,30])
        sds={"timed":.04,"file":.06,"drive":.02}
        def mk(center):
            J=random.choice([1,1,2,3]); res=[]
            for _ in range(J):
                o=random.gauss(0,.02)
                res.append([round(center*2.718281828**(o+random.gauss(0,sds[kind])),3) for _ in range(random.choice([1,2,3,3,4]))])
            return res
        then=mk(base); now=mk(base/gain if better=='lower' else base*gain)
        method=random.choice(["stopwatch","automatic"]) if kind=="timed" else "automatic"
        u=0.28 if method=="stopwatch" else 0.01
        fresh=method=="stopwatch" or kind=="drive"
        lines.append(dict(id=id,kind=kind,unit=unit,better=better,per_week=pw,occasion=occ,method=method,u=u,then=then,now=now,
            A=side(kind,then,[u]*sum(map(len,then)),fresh,pri[kind]),B=side(kind,now,[u]*sum(map(len,now)),fresh,pri[kind])))
    for l in lines: l['R']=ratio(l['better'],l['A'],l['B'])
    order=sorted(range(len(lines)),key=lambda i:lines[i]['R'][3]); going=True
    for rank,i in enumerate(order):
        m=len(lines)-rank; lines[i]['m']=m
        going=going and lines[i]['R'][3]<=mpf('0.05')/m
        lines[i]['holds']=bool(going)
    eq=lambda R: R[1]>=1/mpf('1.1') and R[2]<=mpf('1.1')
    for l in lines:
        R=l['R']
        l['verdict']='faster' if R[1]>1 else 'slower' if R[2]<1 else 'too-close'
        l['equal']=bool(l['verdict']=='too-close' and eq(R))
        l['fr']=None;l['on']=None
        if l['holds'] or l['equal']: l['fr']=0
        else:
            for k in range(1,11):
                for on in ('then','with'):
                    r=ratio(l['better'],l['A'],l['B'],k if on=='then' else 0,k if on=='with' else 0)
                    if r[3]<=mpf('0.05')/l['m'] or eq(r):
                        l['fr']=k;l['on']=on;break
                if l['fr'] is not None: break
    ref=[l for l in lines if l['id']=='scattered']
    for l in lines:
        l['share']=None
        if l['kind']=='timed' and ref and ref[0]['verdict']=='faster' and ref[0]['R'][0]>=1.25 and l['verdict']=='faster' and not l['R'][1]>ref[0]['R'][2]:
            S=l['R'][0];Rr=ref[0]['R'][0]; a=1-1/S;c=1-1/Rr
            g1=(1/S)/c; g2=a/Rr/c**2
            cs=[(x*g1*g1,n) for x,n in parts(l['A'])+parts(l['B'])]+[(x*g2*g2,n) for x,n in parts(ref[0]['A'])+parts(ref[0]['B'])]
            h=half(cs); cl=lambda v:max(mpf(0),min(mpf(1),v))
            l['share']=[fl(cl(a/c)),fl(cl(a/c-h)),fl(cl(a/c+h)),fl(l['A']['c']*(1-cl(a/c)))]
    def group(kinds):
        ls=[l for l in lines if l['kind'] in kinds]
        if not ls: return None
        if len(ls)==1: return [fl(x) for x in ls[0]['R'][:3]]+[1]
        m=len(ls); cs=[]
        for l in ls:
            for s in (l['A'],l['B']):
                w,b,i=parts(s); cs+=[(w[0]/m**2,w[1]),(i[0]/m**2,None)]
        B=(sum(sqrt(parts(l['A'])[1][0]+parts(l['B'])[1][0]) for l in ls)/m)**2
        cs.append((B,min(min(l['A']['nb'],l['B']['nb']) for l in ls)))
        mean=sum(log(l['R'][0]) for l in ls)/m; h=half(cs)
        return [fl(exp(mean)),fl(exp(mean-h)),fl(exp(mean+h)),m]
    ls=[];same=[];seen=set()
    for l in lines:
        if l['kind'] not in('timed','file') or not l['per_week']: continue
        if l['occasion'] and l['occasion'] in seen: same.append(l['id']); continue
        if l['occasion']: seen.add(l['occasion'])
        ls.append(l)
    S=sum(l['per_week']*(l['A']['c']-l['B']['c']) for l in ls); cs=[]
    for l in ls:
        for s in(l['A'],l['B']):
            w,b,i=parts(s); f=(l['per_week']*s['c'])**2
            cs+=[(f*w[0],w[1]),(f*i[0],None)]
    nb=min(min(l['A']['nb'],l['B']['nb']) for l in ls)
    cs.append((sum(l['per_week']*l['A']['c']*sqrt(parts(l['A'])[1][0]) for l in ls)**2,nb))
    cs.append((sum(l['per_week']*l['B']['c']*sqrt(parts(l['B'])[1][0]) for l in ls)**2,nb))
    h=half(cs)
    def sd(s):
        w,b,i=parts(s); return dict(n=s['N'],sittings=s['J'],centre=fl(s['c']),within=fl(w[0]),between=fl(b[0]),instrument=fl(i[0]))
    out.append(dict(spread=spread,tests=[dict(id=l['id'],kind=l['kind'],unit=l['unit'],better=l['better'],per_week=l['per_week'],occasion=l['occasion'],method=l['method'],u=l['u'],then=l['then'],now=l['now'],
        want=dict(verdict=l['verdict'],holds=l['holds'],equal=l['equal'],factor=fl(l['R'][0]),low=fl(l['R'][1]),high=fl(l['R'][2]),p=fl(l['R'][3]),dof=fl(l['R'][4]),then=sd(l['A']),**{'with':sd(l['B'])},share=l['share'],further=l['fr'],on=l['on'])) for l in lines],
        drive=group(('drive',)),waiting=group(('timed','file')),savings=[fl(S),fl(S-h),fl(S+h)],same=same))
import sys; json.dump(out,sys.stdout,indent=1)
