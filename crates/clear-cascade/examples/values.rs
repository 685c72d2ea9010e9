//! scratch
use clear_cascade::*;
fn main() {
    let a: Vec<String> = std::env::args().collect();
    let mut root = ".".to_owned(); let mut o = Options::default(); let mut i = 2; 
    let page = a[2].clone();
    while i < a.len() { match &*a[i] { "--root" => root = a[i+1].clone(), "--viewport" => { let (w,h)=a[i+1].split_once('x').unwrap(); o.viewing.width=w.parse().unwrap(); o.viewing.height=h.parse().unwrap(); }, "--media" => o.viewing.medium = if a[i+1]=="print" {Medium::Print} else {Medium::Screen}, "--prefer" => { let (k,v)=a[i+1].split_once('=').unwrap(); o.viewing.preferences.insert(k.into(), v.into()); }, _=>{} } i+=1; }
    let l = FileLoader::new(&root);
    let u = l.url_of(page.as_ref()).unwrap();
    let s = Study::open_with(&l, u.path(), &o).unwrap();
    let obj = |v: Vec<(String,String)>| serde_json::Value::Object(v.into_iter().map(|(k,v)| (k, v.into())).collect());
    for e in s.document().ids() {
        println!("{}", serde_json::json!({"element": e.number(), "tag": &*s.document().element(e).name, "values": obj(s.values(e))}));
        for (p, v) in s.generated(e) { println!("{}", serde_json::json!({"element": e.number(), "tag": &*s.document().element(e).name, "pseudo": p, "values": obj(v)})); }
    }
}
