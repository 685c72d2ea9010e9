//! How the program is linked.

use std::env;

/// On Linux the program is linked for a fixed address: a program that can lie anywhere has some
/// 42,000 addresses of its tables filled in at every start, which is two fifths of what
/// `--version` takes beyond starting any program (docs/performance.md). What it links to, the heap
/// and the stack lie anywhere still.
fn main() {
    println!("cargo::rerun-if-changed=build.rs");
    let target = |of: &str| env::var(format!("CARGO_CFG_TARGET_{of}")).unwrap_or_default();
    let is_static = target("FEATURE").split(',').any(|feature| feature == "crt-static");
    if target("OS") == "linux" && target("ENV") == "gnu" && target("ARCH") == "x86_64" && !is_static {
        println!("cargo::rustc-link-arg-bins=-no-pie");
    }
}
