//! Who may ask: names the server answers for, pages that may ask it, and the headers that keep a page from being used by another.

use std::sync::Arc;
use std::time::Instant;

use axum::extract::{Request, State};
use axum::http::{HeaderMap, HeaderName, HeaderValue, Method, StatusCode, Uri, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

use crate::App;
use crate::problem::Problem;

/// Names of this machine for itself.
const LOOPBACK: [&str; 3] = ["localhost", "127.0.0.1", "[::1]"];
/// The cookie that holds the token.
const COOKIE: &str = "nimbet_token";

/// Scripts and everything else come from this server only; styles may stand in the page, as the components write them there.
const CONTENT: &str = "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; \
    font-src 'self' data:; connect-src 'self'; worker-src 'self' blob:; manifest-src 'self'; base-uri 'none'; \
    form-action 'self'; frame-ancestors 'none'";
const HEADERS: [(HeaderName, &str); 7] = [
    (header::CONTENT_SECURITY_POLICY, CONTENT),
    (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
    (header::X_FRAME_OPTIONS, "DENY"),
    (header::REFERRER_POLICY, "no-referrer"),
    (HeaderName::from_static("permissions-policy"), "camera=(), microphone=(), geolocation=(), usb=(), payment=()"),
    (HeaderName::from_static("cross-origin-opener-policy"), "same-origin"),
    (HeaderName::from_static("cross-origin-resource-policy"), "same-origin"),
];

/// Lets in who may ask, while the database answers; counts answers and gives each its headers.
pub(super) async fn may_ask(State(app): State<Arc<App>>, request: Request, next: Next) -> Response {
    let begin = Instant::now();
    let mut answer = match fault(&app, &request) {
        Some(refused) => refused,
        None => {
            let of_the_api = request.uri().path().starts_with("/api/");
            let mut database = app.database_answers.subscribe();
            tokio::select! {
                answer = next.run(request) => answer,
                // What was asked of a database that is gone would never be answered.
                _ = database.wait_for(|answers| !answers), if of_the_api => Problem::away().into_response(),
            }
        }
    };
    app.counts.answered(answer.status().as_u16(), begin.elapsed());
    for (name, value) in HEADERS {
        answer.headers_mut().insert(name, HeaderValue::from_static(value));
    }
    answer
}

/// Why a request is not answered, or is answered without looking further.
fn fault(app: &App, request: &Request) -> Option<Response> {
    let (headers, uri) = (request.headers(), request.uri());
    let host = match host_of(headers, uri) {
        Ok(host) => host,
        Err(problem) => return Some(problem.into_response()),
    };
    let name = without_port(host);
    let known = LOOPBACK.contains(&name) || app.config.hosts.iter().any(|own| own.eq_ignore_ascii_case(name));
    if !known {
        return Some(Problem::unknown_host(name).into_response());
    }
    if let Err(problem) = of_this_page(request.method(), headers, uri, host) {
        return Some(problem.into_response());
    }
    if uri.path() != "/health/live"
        && let Some(token) = &app.config.token
        && !has_token(headers, token)
    {
        return Some(match given_token(uri) {
            Some(given) if same(given, token) => with_cookie(token),
            _ => Problem::no_token().into_response(),
        });
    }
    None
}

/// The one name a request was sent to.
fn host_of<'a>(headers: &'a HeaderMap, uri: &'a Uri) -> Result<&'a str, Problem> {
    let mut named = headers.get_all(header::HOST).iter();
    match (named.next(), named.next()) {
        (Some(host), None) => host.to_str().map_err(|_| Problem::bad_request("The Host header is not plain text.")),
        (None, _) => {
            uri.authority().map(|a| a.as_str()).ok_or_else(|| Problem::bad_request("There is no Host header."))
        }
        (Some(_), Some(_)) => Err(Problem::bad_request("There are several Host headers.")),
    }
}

fn without_port(host: &str) -> &str {
    match host.rsplit_once(':') {
        Some((name, port))
            if port.bytes().all(|b| b.is_ascii_digit()) && (!name.contains(':') || name.ends_with(']')) =>
        {
            name
        }
        _ => host,
    }
}

/// Browsers say which page a request comes from; another site's may neither change nor read anything here, and need not start
/// work. Who says nothing is no browser.
fn of_this_page(method: &Method, headers: &HeaderMap, uri: &Uri, host: &str) -> Result<(), Problem> {
    let refused = || Problem::forbidden("This was asked by a page of another site. Nothing was done.");
    let text = |name: &str| headers.get(name).map(|value| value.to_str().unwrap_or("?"));
    let changes = !matches!(*method, Method::GET | Method::HEAD);
    let site = text("sec-fetch-site").is_none_or(|site| matches!(site, "same-origin" | "none"));
    if !site && (changes || uri.path().starts_with("/api/")) {
        return Err(refused());
    }
    let origin = text("origin").is_none_or(|origin| {
        let place = origin.strip_prefix("http://").or_else(|| origin.strip_prefix("https://"));
        place.is_some_and(|place| place.eq_ignore_ascii_case(host))
    });
    if origin { Ok(()) } else { Err(refused()) }
}

fn has_token(headers: &HeaderMap, token: &str) -> bool {
    let text = |name| headers.get(name).and_then(|value: &HeaderValue| value.to_str().ok());
    let bearer = text(header::AUTHORIZATION).and_then(|value| value.strip_prefix("Bearer "));
    let cookies = text(header::COOKIE).into_iter().flat_map(|all| all.split("; "));
    let cookie =
        cookies.filter_map(|one| one.split_once('=')).find(|(name, _)| *name == COOKIE).map(|(_, value)| value);
    bearer.or(cookie).is_some_and(|given| same(given, token))
}

/// Whether two tokens are the same, in a time that does not tell how much of them is.
fn same(given: &str, token: &str) -> bool {
    let (a, b) = (nimbet_ledger::Hash::of(given.as_bytes()).0, nimbet_ledger::Hash::of(token.as_bytes()).0);
    a.iter().zip(b).fold(0, |differs, (x, y)| differs | (x ^ y)) == 0
}

/// The token in `/?token=…`.
fn given_token(uri: &Uri) -> Option<&str> {
    uri.query().filter(|_| uri.path() == "/")?.split('&').find_map(|field| field.strip_prefix("token="))
}

/// Keeps the token in the browser, and takes it out of the address.
fn with_cookie(token: &str) -> Response {
    let cookie = format!("{COOKIE}={token}; Path=/; HttpOnly; SameSite=Strict; Max-Age=2592000");
    (StatusCode::SEE_OTHER, [(header::SET_COOKIE, cookie), (header::LOCATION, "/".to_owned())]).into_response()
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)] // a failed test says so by panicking

    use super::*;

    fn headers(fields: &[(&'static str, &'static str)]) -> HeaderMap {
        fields.iter().map(|(n, v)| (HeaderName::from_static(n), HeaderValue::from_static(v))).collect()
    }

    #[test]
    fn a_name_is_told_from_its_port() {
        for (host, name) in [
            ("localhost:8470", "localhost"),
            ("127.0.0.1", "127.0.0.1"),
            ("[::1]:8470", "[::1]"),
            ("[::1]", "[::1]"),
            ("evil.example:8470", "evil.example"),
            ("127.0.0.1:8470.evil.example", "127.0.0.1:8470.evil.example"),
        ] {
            assert_eq!(without_port(host), name);
        }
    }

    #[test]
    fn pages_of_other_sites_change_and_read_nothing() {
        let (here, host) = (Uri::from_static("/api/v1/jobs"), "127.0.0.1:8470");
        let ask = |method: Method, fields: &[(&'static str, &'static str)]| {
            of_this_page(&method, &headers(fields), &here, host).is_ok()
        };
        assert!(ask(Method::POST, &[]), "no browser");
        assert!(ask(Method::POST, &[("origin", "http://127.0.0.1:8470"), ("sec-fetch-site", "same-origin")]));
        assert!(ask(Method::GET, &[("sec-fetch-site", "none")]), "typed into the address");
        for fields in [
            &[("origin", "http://evil.example")][..],
            &[("origin", "null")],
            &[("origin", "http://127.0.0.1:8471")],
            &[("origin", "http://127.0.0.1:8470.evil.example")],
            &[("sec-fetch-site", "cross-site")],
            &[("sec-fetch-site", "same-site")],
        ] {
            assert!(!ask(Method::POST, fields), "{fields:?}");
            assert!(!ask(Method::GET, fields), "{fields:?}");
        }
        // A link to the bench from elsewhere opens it.
        let page = Uri::from_static("/");
        assert!(of_this_page(&Method::GET, &headers(&[("sec-fetch-site", "cross-site")]), &page, host).is_ok());
    }

    #[test]
    fn a_token_comes_as_bearer_or_cookie() {
        assert!(has_token(&headers(&[("authorization", "Bearer quay")]), "quay"));
        assert!(has_token(&headers(&[("cookie", "a=b; nimbet_token=quay")]), "quay"));
        assert!(!has_token(&headers(&[("cookie", "nimbet_token=quay2")]), "quay"));
        assert!(!has_token(&headers(&[]), "quay"));
        assert_eq!(given_token(&Uri::from_static("/?a=1&token=quay")), Some("quay"));
        assert_eq!(given_token(&Uri::from_static("/api/v1/jobs?token=quay")), None);
    }
}
