//! Rebuilds when the front end was built again: it is embedded.

fn main() {
    println!("cargo:rerun-if-changed=../../web/dist");
    println!("cargo:rerun-if-changed=demo");
}
