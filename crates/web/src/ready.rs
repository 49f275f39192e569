//! Pages that are ready to be sent: rendered and compressed once, sent to everybody who asks until the job
//! changes.

use crate::app::compute;
use crate::error::AppError;
use axum::body::Bytes;
use axum::http::{HeaderMap, HeaderValue, header};
use axum::response::{IntoResponse, Response};
use flate2::Compression;
use flate2::write::GzEncoder;
use std::hash::Hash;
use std::io::Write;
use std::sync::Arc;

/// A page in both ways that browsers take it.
#[derive(Clone)]
pub struct Ready {
    plain: Bytes,
    gzip: Bytes,
}

impl Ready {
    /// Of a page.
    ///
    /// # Errors
    /// It can't be compressed, which does not happen.
    pub fn new(html: String) -> Result<Self, AppError> {
        let mut out = GzEncoder::new(Vec::with_capacity(html.len() / 5), Compression::default());
        out.write_all(html.as_bytes()).map_err(AppError::broken)?;
        let gzip = out.finish().map_err(AppError::broken)?;
        Ok(Self { plain: html.into(), gzip: gzip.into() })
    }

    /// As this browser takes it.
    pub fn answer(&self, headers: &HeaderMap) -> Response {
        let takes = headers.get_all(header::ACCEPT_ENCODING).iter();
        let gzip = takes.filter_map(|v| v.to_str().ok()).flat_map(|v| v.split(',')).any(|v| {
            let (name, rest) = v.split_once(';').unwrap_or((v, ""));
            name.trim() == "gzip" && !matches!(rest.trim(), "q=0" | "q=0.0")
        });
        let kind = (header::CONTENT_TYPE, HeaderValue::from_static("text/html; charset=utf-8"));
        let vary = (header::VARY, HeaderValue::from_static("accept-encoding"));
        if gzip {
            let how = (header::CONTENT_ENCODING, HeaderValue::from_static("gzip"));
            ([kind, vary, how], self.gzip.clone()).into_response()
        } else {
            ([kind, vary], self.plain.clone()).into_response()
        }
    }
}

/// Pages by what they are made of; the least asked for go when they take too much.
#[derive(Clone)]
pub struct Pages<K>(moka::sync::Cache<K, Arc<Ready>>);

impl<K: Hash + Eq + Clone + Send + Sync + 'static> Pages<K> {
    /// So many bytes of them at most.
    pub fn new(most: u64) -> Self {
        let weight =
            |_: &K, page: &Arc<Ready>| u32::try_from(page.plain.len() + page.gzip.len()).unwrap_or(u32::MAX);
        Self(moka::sync::Cache::builder().weigher(weight).max_capacity(most).build())
    }

    /// The page of a key, made now if nobody made it.
    ///
    /// # Errors
    /// Whatever making it fails with; then nothing is kept.
    pub async fn get(
        &self,
        key: K,
        make: impl FnOnce() -> Result<String, AppError> + Send + 'static,
    ) -> Result<Arc<Ready>, AppError> {
        if let Some(ready) = self.0.get(&key) {
            return Ok(ready);
        }
        let ready = compute(move || make().and_then(Ready::new)).await??;
        let ready = Arc::new(ready);
        self.0.insert(key, Arc::clone(&ready));
        Ok(ready)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::io::Read;

    fn sent(ready: &Ready, accepts: &[&'static str]) -> (bool, usize) {
        let mut headers = HeaderMap::new();
        for one in accepts {
            headers.append(header::ACCEPT_ENCODING, HeaderValue::from_static(one));
        }
        let response = ready.answer(&headers);
        let gzip = response.headers().contains_key(header::CONTENT_ENCODING);
        (gzip, if gzip { ready.gzip.len() } else { ready.plain.len() })
    }

    #[tokio::test]
    async fn a_page_is_made_once_and_sent_as_it_is_taken() {
        let pages = Pages::new(1_000_000);
        let html = "<p>the same again</p>".repeat(100);
        let make = html.clone();
        let ready = pages.get(1, move || Ok(make)).await.unwrap();
        let again = pages.get(1, || Err(AppError::NotFound)).await.unwrap();
        assert!(Arc::ptr_eq(&ready, &again), "not made a second time");
        assert!(pages.get(2, || Err(AppError::NotFound)).await.is_err());
        assert!(pages.get(2, || Ok("now".into())).await.is_ok(), "a fault is not kept");
        let mut back = String::new();
        flate2::read::GzDecoder::new(&ready.gzip[..]).read_to_string(&mut back).unwrap();
        assert_eq!(back, html);
        for (accepts, gzip) in [
            (&["gzip, deflate, br"][..], true),
            (&["deflate", "gzip;q=0.8"], true),
            (&["gzip;q=0"], false),
            (&["br"], false),
            (&[], false),
        ] {
            assert_eq!(sent(&ready, accepts).0, gzip, "{accepts:?}");
        }
    }
}
