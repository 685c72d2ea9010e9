//! Files of a site, what was kept of one, and what is fetched over the network where that is asked for.

use std::collections::{HashMap, HashSet};
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};
use std::path::Path;
use std::sync::{Mutex, OnceLock, PoisonError};
use std::time::{Duration, Instant};

use clear_cascade::source::{Bytes, LoadError, Loaded};
use clear_cascade::{FileLoader, Loader};
use ureq::ResponseExt as _;
use ureq::unversioned::resolver::{DefaultResolver, ResolvedSocketAddrs, Resolver};
use ureq::unversioned::transport::{DefaultConnector, NextTimeout};
use url::{Host, Url};

use crate::saved::Store;

/// How long one file may take, from looking its host up to the last byte.
const LONGEST: Duration = Duration::from_secs(15);
/// How long all files together may take, from the first request on: as long as one waits for an answer.
const LONGEST_OF_ALL: Duration = Duration::from_secs(60);
/// How many files are fetched at once.
const AT_ONCE: usize = 6;
/// The largest file that is fetched, in bytes.
const LARGEST: u64 = 8 << 20;

/// What may be fetched over the network.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Fetch {
    /// Nothing.
    Nothing,
    /// What is at public addresses.
    Public,
    /// That, and what is on this machine.
    Loopback,
    /// What is at any address, those of the network of this machine included.
    Any,
}

/// Where the page is.
enum Site {
    /// In a folder.
    Files(FileLoader),
    /// At a URL: on the network, or in what was kept of it.
    At(Url),
}

impl Site {
    /// The site of a page at a URL.
    fn of(page: &Url) -> Self {
        let mut top = page.clone();
        top.set_path("/");
        top.set_query(None);
        top.set_fragment(None);
        Self::At(top)
    }
}

/// Loads what belongs to a page: files below a root, parts of what was kept, and what is on the network where that is allowed.
pub(crate) struct Web {
    /// Where the page is.
    site: Site,
    /// The client, where anything may be fetched.
    agent: Option<ureq::Agent>,
    /// How long all fetches together may take.
    longest: Duration,
    /// When the first of them started.
    started: OnceLock<Instant>,
    /// What was fetched or given, and what came of it: nothing is fetched twice.
    known: Mutex<HashMap<Url, Found>>,
    /// Where what is fetched is kept.
    store: Option<Store>,
}

/// What came of a URL.
#[derive(Clone)]
struct Found {
    /// What is there, or why it cannot be had.
    loaded: Result<Loaded, LoadError>,
    /// Where it is in the end.
    at: Url,
    /// Whether it was given, not fetched.
    given: bool,
}

impl Web {
    /// Files of a site with the network behind them.
    pub(crate) fn new(files: FileLoader, fetch: Fetch) -> Self {
        Self::of(Site::Files(files), fetch)
    }

    /// A site at a URL.
    pub(crate) fn at(page: &Url, fetch: Fetch) -> Self {
        Self::of(Site::of(page), fetch)
    }

    /// The same with its page at another URL, of another site or not, what may be fetched for that one, and all that is known.
    pub(crate) fn moved_to(self, page: &Url, fetch: Fetch) -> Self {
        Self { site: Site::of(page), agent: client(fetch), ..self }
    }

    /// One that knows nothing yet.
    fn of(site: Site, fetch: Fetch) -> Self {
        Self {
            site,
            agent: client(fetch),
            longest: LONGEST_OF_ALL,
            started: OnceLock::new(),
            known: Mutex::default(),
            store: None,
        }
    }

    /// Keeps what is fetched.
    pub(crate) fn keeping(self, store: Option<Store>) -> Self {
        Self { store, ..self }
    }

    /// Takes what is at a URL to be this.
    pub(crate) fn give(&self, url: Url, loaded: Loaded) {
        self.known().insert(url.clone(), Found { loaded: Ok(loaded), at: url, given: true });
    }

    /// What is known by URL.
    fn known(&self) -> std::sync::MutexGuard<'_, HashMap<Url, Found>> {
        self.known.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The folder at the top of the site, where it is in one.
    pub(crate) fn folder(&self) -> Option<&Path> {
        match &self.site {
            Site::Files(files) => Some(files.root()),
            Site::At(_) => None,
        }
    }

    /// The URL of a page by the name it is shown by.
    pub(crate) fn page_url(&self, name: &str) -> Option<Url> {
        let known =
            self.known().values().find(|f| f.loaded.as_ref().is_ok_and(|l| l.name == name)).map(|f| f.at.clone());
        match &self.site {
            Site::Files(files) => known.or_else(|| files.url_of(Path::new(name))),
            Site::At(_) => known,
        }
    }

    /// Of what is shown by a name and is on another site: where it is, and whether it was fetched from there.
    pub(crate) fn elsewhere(&self, name: &str) -> Option<(Url, bool)> {
        let known = self.known();
        let found = known.values().find(|f| f.loaded.as_ref().is_ok_and(|l| l.name == name))?;
        (found.at.origin() != self.site().origin()).then(|| (found.at.clone(), !found.given))
    }

    /// The bytes of a file of the site, or those that are in the address itself.
    pub(crate) fn bytes(&self, url: &Url) -> Option<Bytes> {
        if url.scheme() == "data" {
            return data_url::DataUrl::process(url.as_str()).ok()?.decode_to_vec().ok().map(|(bytes, _)| bytes.into());
        }
        let loaded = match &self.site {
            Site::Files(files) => files.bytes(url),
            Site::At(_) => self.load(url),
        };
        loaded.ok().map(|loaded| loaded.bytes)
    }

    /// What a sheet at a URL is shown by.
    pub(crate) fn name_of(&self, url: &Url) -> Option<String> {
        if let Some(found) = self.known().get(url) {
            return found.loaded.as_ref().ok().map(|loaded| loaded.name.clone());
        }
        match &self.site {
            Site::Files(files) if self.is_own(url) => files.load(url).ok().map(|loaded| loaded.name),
            // What is on other sites is shown by its address, and is not fetched again for that.
            _ => Some(url.to_string()),
        }
    }

    /// Whether a URL is one of the site.
    fn is_own(&self, url: &Url) -> bool {
        url.origin() == self.site().origin()
    }

    /// Why a URL is not fetched.
    fn refusal(&self, url: &Url) -> String {
        let kept = matches!(self.site, Site::At(_));
        match (is_of_web(url), kept) {
            (false, true) => "it is not among what was kept of the page".to_owned(),
            (false, false) => format!("it is on another site, and nothing is fetched by `{}:`", url.scheme()),
            (true, true) => "it is not among what was kept of the page; --fetch gets it".to_owned(),
            (true, false) => {
                "it is on another site, and nothing is fetched over the network; --fetch gets it".to_owned()
            }
        }
    }

    /// Gets a URL of the network, or what came of it before.
    fn get(&self, url: &Url) -> Result<Loaded, LoadError> {
        if let Some(known) = self.known().get(url) {
            return known.loaded.clone();
        }
        let Some(agent) = self.agent.as_ref().filter(|_| is_of_web(url)) else {
            return Err(LoadError::Network(self.refusal(url)));
        };
        let (loaded, at) = match self.request(agent, url) {
            Ok((loaded, at)) => (Ok(loaded), at),
            Err(why) => (Err(LoadError::Network(why)), url.clone()),
        };
        self.known().insert(url.clone(), Found { loaded: loaded.clone(), at, given: false });
        loaded
    }

    /// Asks for a URL; gives what is there and where that is in the end, or why it cannot be had, in plain words.
    fn request(&self, agent: &ureq::Agent, url: &Url) -> Result<(Loaded, Url), String> {
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
        let at = Url::parse(&response.get_uri().to_string()).unwrap_or_else(|_| url.clone());
        let bytes = response.body_mut().with_config().limit(LARGEST).read_to_vec().map_err(failed)?;
        let name = match &self.store {
            Some(store) => store.keep(&at, &header, &bytes)?,
            None => at.to_string(),
        };
        Ok((Loaded::new(name, bytes).content_type(&header), at))
    }
}

/// What asks the network, where anything may be fetched.
fn client(fetch: Fetch) -> Option<ureq::Agent> {
    (fetch != Fetch::Nothing).then(|| {
        let config = ureq::Agent::config_builder()
            .max_redirects(5)
            .proxy(None)
            .user_agent(concat!("clear-cascade/", env!("CARGO_PKG_VERSION")))
            .build();
        ureq::Agent::with_parts(config, DefaultConnector::default(), Guarded { fetch })
    })
}

/// Whether an address is one of the web.
pub(crate) fn is_of_web(url: &Url) -> bool {
    matches!(url.scheme(), "http" | "https")
}

/// Whether a URL is on this machine by its very name.
pub(crate) fn is_loopback(url: &Url) -> bool {
    match url.host() {
        Some(Host::Domain(name)) => {
            let name = name.trim_end_matches('.');
            name == "localhost" || name.ends_with(".localhost")
        }
        Some(Host::Ipv4(v4)) => v4.is_loopback(),
        Some(Host::Ipv6(v6)) => v6.is_loopback(),
        None => false,
    }
}

impl Loader for Web {
    fn load(&self, url: &Url) -> Result<Loaded, LoadError> {
        if let Some(known) = self.known().get(url) {
            return known.loaded.clone();
        }
        match &self.site {
            Site::Files(files) if self.is_own(url) => files.load(url),
            _ => self.get(url),
        }
    }

    fn prepare(&self, urls: &[Url]) {
        let own = matches!(self.site, Site::Files(_)).then(|| self.site().origin());
        let mut seen = HashSet::new();
        let is_away = |url: &&Url| is_of_web(url) && own.as_ref().is_none_or(|own| url.origin() != *own);
        let mut waiting: Vec<&Url> = urls.iter().filter(is_away).collect();
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

    fn found_at(&self, url: &Url) -> Url {
        self.known().get(url).map_or_else(|| url.clone(), |found| found.at.clone())
    }

    fn site(&self) -> Url {
        match &self.site {
            Site::Files(files) => files.site(),
            Site::At(top) => top.clone(),
        }
    }
}

/// Why a request failed, in plain words.
fn told(error: &ureq::Error) -> String {
    match error {
        ureq::Error::StatusCode(code) => format!("the server answers with status {code}"),
        ureq::Error::HostNotFound => {
            "its host is not found, or is at a private address, which --private-addresses allows".to_owned()
        }
        ureq::Error::Timeout(_) => format!("it takes longer than {} s", LONGEST.as_secs()),
        ureq::Error::BodyExceedsLimit(_) => format!("it is larger than {} MiB", LARGEST >> 20),
        ureq::Error::Io(error) if error.to_string().contains("InvalidContentType") => {
            "what answers there does not speak `https:`".to_owned()
        }
        ureq::Error::Io(error) => format!("it cannot be reached: {error}"),
        ureq::Error::TooManyRedirects => "it is redirected too often".to_owned(),
        other => other.to_string(),
    }
}

/// Looks hosts up and leaves out what may not be asked; asked anew for each redirect, so that none leads inside.
#[derive(Debug)]
struct Guarded {
    /// What may be fetched.
    fetch: Fetch,
}

impl Resolver for Guarded {
    fn resolve(
        &self,
        uri: &ureq::http::Uri,
        config: &ureq::config::Config,
        timeout: NextTimeout,
    ) -> Result<ResolvedSocketAddrs, ureq::Error> {
        let found = DefaultResolver::default().resolve(uri, config, timeout)?;
        // A host of the network that says it is this machine is not taken at its word.
        let names_this = || Url::parse(&uri.to_string()).is_ok_and(|url| is_loopback(&url));
        let may = |ip: IpAddr| match self.fetch {
            Fetch::Any => true,
            Fetch::Loopback if is_this_machine(ip) => names_this(),
            _ => is_public(ip),
        };
        let mut allowed = self.empty();
        found.iter().filter(|a| may(a.ip())).for_each(|a| allowed.push(*a));
        if allowed.is_empty() { Err(ureq::Error::HostNotFound) } else { Ok(allowed) }
    }
}

/// Whether an address is that of this machine.
fn is_this_machine(ip: IpAddr) -> bool {
    match ip {
        IpAddr::V4(v4) => v4.octets()[0] == Ipv4Addr::LOCALHOST.octets()[0],
        IpAddr::V6(v6) => v6 == Ipv6Addr::LOCALHOST,
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
