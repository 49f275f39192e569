//! Heavy work in turns: few at once, and of one company fewer, so that none keeps the machine from others.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};
use tokio::sync::{OwnedSemaphorePermit, Semaphore};

/// Who may work now; turns are given in the order they were asked for.
#[derive(Clone)]
pub struct Turns {
    all: Arc<Semaphore>,
    of_a_company: usize,
    companies: Arc<Mutex<HashMap<i64, Arc<Semaphore>>>>,
}

/// Somebody's turn; it ends when this goes.
pub struct Turn {
    _own: OwnedSemaphorePermit,
    _all: OwnedSemaphorePermit,
}

impl Turns {
    pub fn new(at_once: usize, of_a_company: usize) -> Self {
        Self { all: Arc::new(Semaphore::new(at_once)), of_a_company, companies: Arc::default() }
    }

    /// Waits for a turn; none where the server ends.
    pub async fn turn(&self, company: i64) -> Option<Turn> {
        let own = {
            let mut companies = self.companies.lock().unwrap_or_else(PoisonError::into_inner);
            let new = || Arc::new(Semaphore::new(self.of_a_company));
            Arc::clone(companies.entry(company).or_insert_with(new))
        };
        // Its own first: who waits for its own company holds no place of the others.
        let own = own.acquire_owned().await.ok()?;
        let all = Arc::clone(&self.all).acquire_owned().await.ok()?;
        Some(Turn { _own: own, _all: all })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::time::Duration;

    /// Whether a turn comes at once.
    async fn now(turns: &Turns, company: i64) -> Option<Turn> {
        tokio::time::timeout(Duration::from_millis(30), turns.turn(company)).await.ok().flatten()
    }

    #[tokio::test]
    async fn one_company_s_work_leaves_room_for_another_s() {
        let turns = Turns::new(2, 1);
        let first = now(&turns, 1).await.expect("nobody works");
        assert!(now(&turns, 1).await.is_none(), "its own second waits");
        let other = now(&turns, 2).await.expect("another company's does not");
        assert!(now(&turns, 3).await.is_none(), "the machine is busy");
        drop(first);
        let third = now(&turns, 3).await.expect("there is room");
        assert!(now(&turns, 1).await.is_none());
        drop((other, third));
        assert!(now(&turns, 1).await.is_some());
    }
}
