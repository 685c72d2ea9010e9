//! scratch
use clear_cascade::*;
fn main() {
    let sels: Vec<String> = serde_json::from_str(&std::fs::read_to_string("sels.json").unwrap()).unwrap();
    for i in 0..6 {
        let s = Study::open(&FileLoader::new("."), &format!("p{i}.html")).unwrap();
        let o: Vec<serde_json::Value> = sels.iter().map(|q| match s.reach(q) { Ok(r) => r.elements.iter().map(|e| e.element).collect::<Vec<_>>().into(), Err(_) => "bad".into() }).collect();
        std::fs::write(format!("m{i}.json"), serde_json::to_string(&o).unwrap()).unwrap();
    }
}
