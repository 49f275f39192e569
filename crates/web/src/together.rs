//! The same question asked by many at once, answered once. Who asks while an answer is being found waits for
//! the next, so that nobody is told of a state before his own last edit.

use std::collections::HashMap;
use std::hash::Hash;
use std::sync::Arc;
use tokio::sync::{mpsc, oneshot};

/// Questions that may wait; whoever comes later waits to ask.
const WAITING: usize = 4_000;

/// Where questions go.
pub struct Together<K, V>(mpsc::Sender<(K, oneshot::Sender<V>)>);

impl<K, V> Clone for Together<K, V> {
    fn clone(&self) -> Self {
        Self(self.0.clone())
    }
}

impl<K, V> Together<K, V>
where
    K: Hash + Eq + Clone + Send + 'static,
    V: Clone + Send + 'static,
{
    /// Answers by `find`, each different question of a round at the same time.
    pub fn new<F>(find: impl Fn(K) -> F + Send + Sync + 'static) -> Self
    where
        F: Future<Output = V> + Send + 'static,
    {
        let (to, mut questions) = mpsc::channel::<(K, oneshot::Sender<V>)>(WAITING);
        let find = Arc::new(find);
        tokio::spawn(async move {
            let mut asked = Vec::new();
            while questions.recv_many(&mut asked, WAITING).await > 0 {
                let mut round: HashMap<K, Vec<oneshot::Sender<V>>> = HashMap::new();
                for (key, answer) in asked.drain(..) {
                    round.entry(key).or_default().push(answer);
                }
                let mut tasks = tokio::task::JoinSet::new();
                for (key, answers) in round {
                    let found = find(key);
                    tasks.spawn(async move {
                        let found = found.await;
                        for answer in answers {
                            // Whoever asked may have gone.
                            let _ = answer.send(found.clone());
                        }
                    });
                }
                while tasks.join_next().await.is_some() {}
            }
        });
        Self(to)
    }

    /// The answer; none where finding it broke.
    pub async fn ask(&self, key: K) -> Option<V> {
        let (answer, told) = oneshot::channel();
        self.0.send((key, answer)).await.ok()?;
        told.await.ok()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::atomic::{AtomicUsize, Ordering};
    use std::time::Duration;

    #[tokio::test]
    async fn many_are_answered_at_once_and_late_ones_by_the_next_round() {
        let state = Arc::new(AtomicUsize::new(1));
        let rounds = Arc::new(AtomicUsize::new(0));
        let (seen, count) = (Arc::clone(&state), Arc::clone(&rounds));
        let together = Together::new(move |key: u32| {
            // What is true when the round begins.
            let now = seen.load(Ordering::SeqCst);
            count.fetch_add(1, Ordering::SeqCst);
            async move {
                tokio::time::sleep(Duration::from_millis(50)).await;
                (key, now)
            }
        });
        let first = tokio::spawn({
            let together = together.clone();
            async move { together.ask(7).await }
        });
        tokio::time::sleep(Duration::from_millis(20)).await;
        // Something changes while the first is being answered.
        state.store(2, Ordering::SeqCst);
        let late: Vec<_> = (0..50)
            .map(|_| {
                let together = together.clone();
                tokio::spawn(async move { together.ask(7).await })
            })
            .collect();
        assert_eq!(first.await.unwrap(), Some((7, 1)));
        for one in late {
            assert_eq!(one.await.unwrap(), Some((7, 2)), "what was true when it asked");
        }
        assert_eq!(rounds.load(Ordering::SeqCst), 2, "fifty in one");
    }
}
