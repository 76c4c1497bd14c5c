//! The page is embedded at build time; cargo must look again when it was built anew.

fn main() {
    let dist = concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/dist");
    // Without a page the folder is empty, and the server says how to build one.
    let _ = std::fs::create_dir_all(dist);
    println!("cargo::rerun-if-changed={dist}");
}
