//! New migrations are compiled in: look again when the folder changes.

fn main() {
    println!("cargo:rerun-if-changed=migrations");
}
