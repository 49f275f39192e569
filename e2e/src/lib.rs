//! A server on a database of its own, and a browser that looks at it.

mod browser;
mod site;

pub use browser::Browser;
pub use site::Site;
