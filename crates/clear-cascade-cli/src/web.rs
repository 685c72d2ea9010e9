//! Files of the site, and stylesheets of other sites where they are asked for.

use std::collections::{HashMap, HashSet};
use std::net::IpAddr;
use std::sync::{Mutex, OnceLock, PoisonError};
use std::time::{Duration, Instant};

use clear_cascade::source::{LoadError, Loaded};
use clear_cascade::{FileLoader, Loader};
use ureq::unversioned::resolver::{DefaultResolver, ResolvedSocketAddrs, Resolver};
use ureq::unversioned::transport::{DefaultConnector, NextTimeout};
use url::Url;

/// How long one stylesheet may take, from looking its host up to the last byte.
const LONGEST: Duration = Duration::from_secs(15);
/// How long all stylesheets together may take, from the first request on: as long as one waits for an answer.
const LONGEST_OF_ALL: Duration = Duration::from_secs(60);
/// How many stylesheets are fetched at once.
const AT_ONCE: usize = 6;
/// The largest stylesheet that is fetched, in bytes.
const LARGEST: u64 = 8 << 20;

/// What may be fetched over the network.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Fetch {
    /// Nothing.
    Nothing,
    /// Stylesheets at public addresses.
    Public,
    /// Stylesheets at any address, those of this machine and its network included.
    Any,
}

/// Loads files below a root, and what is on other sites over the network where that is allowed.
pub(crate) struct Web {
    /// The files of the site.
    files: FileLoader,
    /// The client, where anything may.
    agent: Option<ureq::Agent>,
    /// How long all fetches together may take.
    longest: Duration,
    /// When the first of them started.
    started: OnceLock<Instant>,
    /// What was fetched, and what came of it: nothing is fetched twice.
    fetched: Mutex<HashMap<Url, Result<Loaded, LoadError>>>,
}

impl Web {
    /// Files of a site with the network behind them.
    pub(crate) fn new(files: FileLoader, fetch: Fetch) -> Self {
        let agent = (fetch != Fetch::Nothing).then(|| {
            let config = ureq::Agent::config_builder()
                .max_redirects(5)
                .proxy(None)
                .user_agent(concat!("clear-cascade/", env!("CARGO_PKG_VERSION")))
                .build();
            ureq::Agent::with_parts(config, DefaultConnector::default(), Guarded { any: fetch == Fetch::Any })
        });
        let (started, fetched) = (OnceLock::new(), Mutex::default());
        Self { files, agent, longest: LONGEST_OF_ALL, started, fetched }
    }

    /// The URL of a page by the path it is shown by.
    pub(crate) fn page_url(&self, name: &str) -> Option<Url> {
        self.files.url_of(std::path::Path::new(name))
    }

    /// The bytes of a file of the site, or those that are in the address itself.
    pub(crate) fn bytes(&self, url: &Url) -> Option<Vec<u8>> {
        if url.scheme() == "data" {
            return data_url::DataUrl::process(url.as_str()).ok()?.decode_to_vec().ok().map(|(bytes, _)| bytes);
        }
        self.files.bytes(url).ok().map(|loaded| loaded.bytes)
    }

    /// What a sheet at a URL is shown by.
    pub(crate) fn name_of(&self, url: &Url) -> Option<String> {
        // What is on other sites is shown by its address, and is not fetched again for that.
        if url.origin() != self.site().origin() {
            return Some(url.to_string());
        }
        self.files.load(url).ok().map(|loaded| loaded.name)
    }

    /// Gets a URL of another site, or what came of it before.
    fn get(&self, url: &Url) -> Result<Loaded, LoadError> {
        let Some(agent) = self.agent.as_ref().filter(|_| is_of_web(url)) else {
            let why = match is_of_web(url) {
                false => format!("it is on another site, and nothing is fetched by `{}:`", url.scheme()),
                true => "it is on another site, and nothing is fetched over the network; --fetch gets it".to_owned(),
            };
            return Err(LoadError::Network(why));
        };
        let kept = || self.fetched.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = kept().get(url) {
            return known.clone();
        }
        let found = self.request(agent, url).map_err(LoadError::Network);
        kept().insert(url.clone(), found.clone());
        found
    }

    /// Asks for a URL; gives why it cannot be had, in plain words.
    fn request(&self, agent: &ureq::Agent, url: &Url) -> Result<Loaded, String> {
        let left = self.longest.saturating_sub(self.started.get_or_init(Instant::now).elapsed());
        let late = || format!("all that is fetched takes longer than {} s", self.longest.as_secs_f32());
        if left.is_zero() {
            return Err(late());
        }
        let failed = |error: ureq::Error| match error {
            ureq::Error::Timeout(_) if left < LONGEST => late(),
            error => told(&error),
        };
        let request = agent.get(url.as_str()).config().timeout_global(Some(LONGEST.min(left))).build();
        let mut response = request.call().map_err(failed)?;
        let header = response.headers().get("content-type").and_then(|h| h.to_str().ok()).unwrap_or_default();
        let header = header.to_owned();
        let bytes = response.body_mut().with_config().limit(LARGEST).read_to_vec().map_err(failed)?;
        Ok(Loaded::new(url.as_str(), bytes).content_type(&header))
    }
}

/// Whether an address is one of the web.
fn is_of_web(url: &Url) -> bool {
    matches!(url.scheme(), "http" | "https")
}

impl Loader for Web {
    fn load(&self, url: &Url) -> Result<Loaded, LoadError> {
        if url.origin() == self.site().origin() { self.files.load(url) } else { self.get(url) }
    }

    fn prepare(&self, urls: &[Url]) {
        let site = self.site().origin();
        let mut seen = HashSet::new();
        let mut waiting: Vec<&Url> = urls.iter().filter(|url| is_of_web(url) && url.origin() != site).collect();
        waiting.retain(|url| seen.insert(*url));
        let most = waiting.len().min(AT_ONCE);
        if self.agent.is_none() || most < 2 {
            return;
        }
        let waiting = Mutex::new(waiting.into_iter());
        let next = || waiting.lock().unwrap_or_else(PoisonError::into_inner).next();
        std::thread::scope(|scope| {
            for _ in 0..most {
                // What comes of it is kept for whoever loads it.
                scope.spawn(|| std::iter::from_fn(next).for_each(|url| drop(self.get(url))));
            }
        });
    }
}

/// Why a request failed, in plain words.
fn told(error: &ureq::Error) -> String {
    match error {
        ureq::Error::StatusCode(code) => format!("the server answers with status {code}"),
        ureq::Error::HostNotFound => "its host is not found, or is at a private address".to_owned(),
        ureq::Error::Timeout(_) => format!("it takes longer than {} s", LONGEST.as_secs()),
        ureq::Error::BodyExceedsLimit(_) => format!("it is larger than {} MiB", LARGEST >> 20),
        ureq::Error::Io(error) => format!("it cannot be reached: {error}"),
        ureq::Error::TooManyRedirects => "it is redirected too often".to_owned(),
        other => other.to_string(),
    }
}

/// Looks hosts up and leaves private addresses out; asked anew for each redirect, so that none leads inside.
#[derive(Debug)]
struct Guarded {
    /// Whether private addresses are allowed.
    any: bool,
}

impl Resolver for Guarded {
    fn resolve(
        &self,
        uri: &ureq::http::Uri,
        config: &ureq::config::Config,
        timeout: NextTimeout,
    ) -> Result<ResolvedSocketAddrs, ureq::Error> {
        let found = DefaultResolver::default().resolve(uri, config, timeout)?;
        if self.any {
            return Ok(found);
        }
        let mut public = self.empty();
        found.iter().filter(|a| is_public(a.ip())).for_each(|a| public.push(*a));
        if public.is_empty() { Err(ureq::Error::HostNotFound) } else { Ok(public) }
    }
}

/// Whether an address is one of the public network (RFC 6890 lists those that are not).
fn is_public(ip: IpAddr) -> bool {
    match ip {
        IpAddr::V4(v4) => {
            let [a, b, ..] = v4.octets();
            !(v4.is_private()
                || v4.is_loopback()
                || v4.is_link_local()
                || v4.is_broadcast()
                || v4.is_documentation()
                || v4.is_multicast()
                || a == 0
                || a >= 240
                || (a == 100 && (64..128).contains(&b))
                || (a == 192 && b == 0)
                || (a == 198 && (18..20).contains(&b)))
        }
        IpAddr::V6(v6) => match v6.to_ipv4_mapped() {
            Some(v4) => is_public(IpAddr::V4(v4)),
            None => {
                let first = v6.segments()[0];
                // Only 2000::/3 is handed out; of it, 2001:db8::/32 is for documentation and 2002::/16 wraps IPv4.
                (first & 0xe000) == 0x2000 && !(first == 0x2001 && v6.segments()[1] == 0xdb8) && first != 0x2002
            }
        },
    }
}

#[cfg(test)]
mod tests {
    use std::io::{Read, Write};
    use std::net::TcpListener;

    use super::*;

    /// A server that answers each request with a sheet after a time; its address.
    fn server(after: Duration) -> String {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let address = format!("http://{}", listener.local_addr().unwrap());
        std::thread::spawn(move || {
            for stream in listener.incoming() {
                let mut stream = stream.unwrap();
                std::thread::spawn(move || {
                    let _ = stream.read(&mut [0; 1024]);
                    std::thread::sleep(after);
                    let _ = stream.write_all(
                        b"HTTP/1.1 200 OK\r\ncontent-type: text/css\r\ncontent-length: 1\r\nconnection: close\r\n\r\n ",
                    );
                });
            }
        });
        address
    }

    /// So many sheets of a server.
    fn sheets(server: &str, count: usize) -> Vec<Url> {
        (0..count).map(|i| Url::parse(&format!("{server}/{i}.css")).unwrap()).collect()
    }

    #[test]
    fn several_are_fetched_at_once_and_none_twice() {
        let slow = Duration::from_millis(200);
        let urls = sheets(&server(slow), 12);
        let web = Web::new(FileLoader::new("/"), Fetch::Any);
        let start = Instant::now();
        web.prepare(&urls);
        assert!(urls.iter().all(|url| web.load(url).is_ok()));
        // One after the other they would take twelve times as long, fetched twice as long again.
        assert!(start.elapsed() < slow * 9, "{:?}", start.elapsed());
    }

    #[test]
    fn all_fetches_together_have_one_limit() {
        let urls = sheets(&server(Duration::from_secs(30)), 40);
        let web = Web { longest: Duration::from_millis(500), ..Web::new(FileLoader::new("/"), Fetch::Any) };
        let start = Instant::now();
        web.prepare(&urls);
        for url in &urls {
            let why = web.load(url).unwrap_err().to_string();
            assert!(why.contains("all that is fetched takes longer than 0.5 s"), "{why}");
        }
        assert!(start.elapsed() < Duration::from_secs(10), "{:?}", start.elapsed());
    }

    #[test]
    fn private_addresses_are_told_from_public_ones() {
        let t = |ip: &str| is_public(ip.parse().unwrap());
        assert!(t("9.9.9.9") && t("172.32.0.1") && t("2600::1"));
        for ip in [
            "127.0.0.1",
            "10.1.2.3",
            "192.168.0.1",
            "172.16.5.5",
            "169.254.1.1",
            "100.64.0.1",
            "0.0.0.0",
            "255.255.255.255",
            "::1",
            "fe80::1",
            "fc00::1",
            "::ffff:10.0.0.1",
        ] {
            assert!(!t(ip), "{ip}");
        }
    }
}
