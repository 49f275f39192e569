//! Open streams of news, counted by who listens: they hold a connection each for as long as a page is open.

use crate::error::AppError;
use axum::http::StatusCode;
use std::collections::HashMap;
use std::net::IpAddr;
use std::sync::{Arc, Mutex, PoisonError};

/// Of one address; a crew behind one router has as many boards open at the most.
const MOST: usize = 60;

/// How many each address has open.
#[derive(Clone, Default)]
pub struct Streams(Arc<Mutex<HashMap<IpAddr, usize>>>);

/// An open stream; counted no more when it goes.
pub struct Open {
    all: Streams,
    of: IpAddr,
}

impl Streams {
    /// Counts one more.
    ///
    /// # Errors
    /// The address has too many.
    pub fn open(&self, of: IpAddr) -> Result<Open, AppError> {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let count = all.entry(of).or_default();
        if *count >= MOST {
            let lines = vec!["Close some site-plan tabs, then reload this one.".to_owned()];
            return Err(AppError::Said(StatusCode::TOO_MANY_REQUESTS, "Too many site plans open", lines));
        }
        *count += 1;
        Ok(Open { all: self.clone(), of })
    }
}

impl Drop for Open {
    fn drop(&mut self) {
        let mut all = self.all.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(count) = all.get_mut(&self.of) {
            *count -= 1;
            if *count == 0 {
                all.remove(&self.of);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_address_has_so_many_and_not_for_ever() {
        let streams = Streams::default();
        let here: IpAddr = "10.0.0.7".parse().unwrap();
        let mut open: Vec<Open> = (0..MOST).map(|_| streams.open(here).unwrap()).collect();
        assert!(streams.open(here).is_err(), "one too many");
        assert!(streams.open("10.0.0.8".parse().unwrap()).is_ok(), "another address");
        open.pop();
        assert!(streams.open(here).is_ok());
        drop(open);
        assert!(streams.0.lock().unwrap().is_empty(), "nothing is kept of who left");
    }
}
