//! The connections that are open: when there are too many, the one that has been silent longest makes room.
//! Whoever opens hundreds and says nothing on them so pushes out his own.

use axum::body::{Body, HttpBody};
use http_body::{Frame, SizeHint};
use std::collections::HashMap;
use std::pin::Pin;
use std::sync::atomic::{AtomicU64, AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::task::{Context, Poll};
use std::time::Instant;
use tokio::sync::Notify;

/// All that are open.
#[derive(Clone)]
pub struct Connections {
    open: Arc<Mutex<HashMap<u64, Arc<Connection>>>>,
    next: Arc<AtomicU64>,
    began: Instant,
    most: usize,
}

/// One of them.
pub struct Connection {
    /// Requests in hand, until the last byte of their answers.
    busy: AtomicUsize,
    /// When it was last busy, milliseconds since the server began.
    last: AtomicU64,
    began: Instant,
    /// It makes room.
    goes: Notify,
}

/// Room for a connection; given back when this goes.
pub struct Room {
    id: u64,
    all: Connections,
    pub connection: Arc<Connection>,
}

impl Drop for Room {
    fn drop(&mut self) {
        self.all.lock().remove(&self.id);
    }
}

impl Connections {
    pub fn new(most: usize) -> Self {
        Self { open: Arc::default(), next: Arc::default(), began: Instant::now(), most }
    }

    fn lock(&self) -> std::sync::MutexGuard<'_, HashMap<u64, Arc<Connection>>> {
        self.open.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Room for one more, made by the longest silent one where there is none; none where all are busy.
    pub fn room(&self) -> Option<Room> {
        let mut open = self.lock();
        if open.len() >= self.most {
            let silent = open.iter().filter(|c| c.1.busy.load(Ordering::Relaxed) == 0);
            let longest = silent.min_by_key(|c| c.1.last.load(Ordering::Relaxed)).map(|c| *c.0)?;
            open.remove(&longest)?.goes.notify_one();
        }
        let connection = Arc::new(Connection {
            busy: AtomicUsize::new(0),
            last: AtomicU64::new(0),
            began: self.began,
            goes: Notify::new(),
        });
        connection.touch();
        let id = self.next.fetch_add(1, Ordering::Relaxed);
        open.insert(id, Arc::clone(&connection));
        Some(Room { id, all: self.clone(), connection })
    }
}

impl Connection {
    fn touch(&self) {
        self.last.store(self.began.elapsed().as_millis() as u64, Ordering::Relaxed);
    }

    /// Until it has to make room.
    pub async fn makes_room(&self) {
        self.goes.notified().await;
    }

    /// Busy until what is given goes.
    pub fn work(self: &Arc<Self>) -> Busy {
        self.busy.fetch_add(1, Ordering::Relaxed);
        Busy(Arc::clone(self))
    }
}

/// A request in hand.
pub struct Busy(Arc<Connection>);

impl Drop for Busy {
    fn drop(&mut self) {
        self.0.touch();
        self.0.busy.fetch_sub(1, Ordering::Relaxed);
    }
}

/// The body of an answer; its connection is busy until it was sent.
pub struct Held {
    pub body: Body,
    pub _busy: Busy,
}

impl HttpBody for Held {
    type Data = <Body as HttpBody>::Data;
    type Error = axum::Error;

    fn poll_frame(
        mut self: Pin<&mut Self>,
        cx: &mut Context<'_>,
    ) -> Poll<Option<Result<Frame<Self::Data>, Self::Error>>> {
        Pin::new(&mut self.body).poll_frame(cx)
    }

    fn is_end_stream(&self) -> bool {
        self.body.is_end_stream()
    }

    fn size_hint(&self) -> SizeHint {
        self.body.size_hint()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test]
    async fn the_longest_silent_one_makes_room_and_a_busy_one_never() {
        let all = Connections::new(2);
        let first = all.room().unwrap();
        let second = all.room().unwrap();
        let busy = first.connection.work();
        let third = all.room().expect("the second is silent");
        second.connection.makes_room().await;
        let more = third.connection.work();
        assert!(all.room().is_none(), "both that are left are busy");
        drop(busy);
        let fourth = all.room().expect("the first is silent now");
        first.connection.makes_room().await;
        drop((more, third, fourth));
        assert!(all.lock().is_empty(), "room is given back");
    }
}
