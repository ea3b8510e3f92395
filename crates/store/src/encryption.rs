//! How a connection to a store is encrypted, and whom it believes: what the usual words `sslmode` and `sslrootcert` ask for.

use crate::error::StoreError;
use rustls::client::WebPkiServerVerifier;
use rustls::client::danger::{HandshakeSignatureValid, ServerCertVerified, ServerCertVerifier};
use rustls::crypto::{CryptoProvider, ring, verify_tls12_signature, verify_tls13_signature};
use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, ServerName, UnixTime};
use rustls::{
    CertificateError, ClientConfig, DigitallySignedStruct, Error, RootCertStore, SignatureScheme,
};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use tokio_postgres_rustls::MakeRustlsConnect;

/// What a connection must be.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Mode {
    /// Plain.
    Disable,
    /// Encrypted where the server does that; whoever answers is believed.
    #[default]
    Prefer,
    /// Encrypted; whoever answers is believed, unless there is a certificate to hold him to.
    Require,
    /// Encrypted, with a server whose certificate follows from one that is known.
    VerifyCa,
    /// The same, and the certificate is of that very host.
    VerifyFull,
}

impl Mode {
    /// Returns the mode that a word asks for.
    pub(crate) fn parse(word: &str) -> Option<Self> {
        Some(match word {
            "disable" => Self::Disable,
            "allow" | "prefer" => Self::Prefer,
            "require" => Self::Require,
            "verify-ca" => Self::VerifyCa,
            "verify-full" => Self::VerifyFull,
            _ => return None,
        })
    }
}

/// How a connection is encrypted.
#[derive(Clone, Debug, Default)]
pub(crate) struct Encryption {
    /// What it must be.
    pub(crate) mode: Mode,
    /// The certificates that are known; those of the system where none is named.
    pub(crate) roots: Option<PathBuf>,
}

impl Encryption {
    /// Returns what makes connections of this kind.
    pub(crate) fn connector(&self) -> Result<MakeRustlsConnect, StoreError> {
        let provider = Arc::new(ring::default_provider());
        let builder = ClientConfig::builder_with_provider(Arc::clone(&provider));
        let builder = builder.with_safe_default_protocol_versions().map_err(unusable)?;
        let verifies = match self.mode {
            Mode::VerifyCa | Mode::VerifyFull => true,
            // As others read the word: a certificate that is there is held to.
            Mode::Require => self.roots.is_some(),
            Mode::Disable | Mode::Prefer => false,
        };
        let by_certificates = match verifies {
            false => None,
            true => {
                let roots = Arc::new(self.known()?);
                let built =
                    WebPkiServerVerifier::builder_with_provider(roots, Arc::clone(&provider));
                Some(
                    built
                        .build()
                        .map_err(|err| StoreError::Certificates { problem: err.to_string() })?,
                )
            }
        };
        let verifier: Arc<dyn ServerCertVerifier> = match by_certificates {
            Some(full) if self.mode == Mode::VerifyFull => full,
            by_certificates => Arc::new(AnyName { by_certificates, provider }),
        };
        let builder = builder.dangerous().with_custom_certificate_verifier(verifier);
        Ok(MakeRustlsConnect::new(builder.with_no_client_auth()))
    }

    /// Reads the certificates that are known.
    fn known(&self) -> Result<RootCertStore, StoreError> {
        let mut store = RootCertStore::empty();
        let unread = |problem: String| StoreError::Certificates { problem };
        match &self.roots {
            Some(path) => {
                let all = certificates(path)
                    .map_err(|problem| unread(format!("{}: {problem}", path.display())))?;
                for certificate in all {
                    let added = store.add(certificate);
                    added.map_err(|err| unread(format!("{}: {err}", path.display())))?;
                }
            }
            None => {
                store.add_parsable_certificates(rustls_native_certs::load_native_certs().certs);
            }
        }
        match store.is_empty() {
            true => Err(unread("none is known here".to_owned())),
            false => Ok(store),
        }
    }
}

fn certificates(path: &Path) -> Result<Vec<CertificateDer<'static>>, String> {
    let all = CertificateDer::pem_file_iter(path).map_err(|err| err.to_string())?;
    all.collect::<Result<_, _>>().map_err(|err| err.to_string())
}

fn unusable(err: Error) -> StoreError {
    StoreError::Certificates { problem: err.to_string() }
}

/// Believes a server by whatever name: one whose certificate follows from one that is known, or any where none is asked for.
/// What it signs must be its own in any case.
#[derive(Debug)]
struct AnyName {
    by_certificates: Option<Arc<WebPkiServerVerifier>>,
    provider: Arc<CryptoProvider>,
}

impl ServerCertVerifier for AnyName {
    fn verify_server_cert(
        &self,
        certificate: &CertificateDer<'_>,
        between: &[CertificateDer<'_>],
        name: &ServerName<'_>,
        ocsp: &[u8],
        now: UnixTime,
    ) -> Result<ServerCertVerified, Error> {
        let Some(full) = &self.by_certificates else { return Ok(ServerCertVerified::assertion()) };
        match full.verify_server_cert(certificate, between, name, ocsp, now) {
            Err(Error::InvalidCertificate(
                CertificateError::NotValidForName | CertificateError::NotValidForNameContext { .. },
            )) => Ok(ServerCertVerified::assertion()),
            other => other,
        }
    }

    fn verify_tls12_signature(
        &self,
        message: &[u8],
        certificate: &CertificateDer<'_>,
        signed: &DigitallySignedStruct,
    ) -> Result<HandshakeSignatureValid, Error> {
        let algorithms = &self.provider.signature_verification_algorithms;
        verify_tls12_signature(message, certificate, signed, algorithms)
    }

    fn verify_tls13_signature(
        &self,
        message: &[u8],
        certificate: &CertificateDer<'_>,
        signed: &DigitallySignedStruct,
    ) -> Result<HandshakeSignatureValid, Error> {
        let algorithms = &self.provider.signature_verification_algorithms;
        verify_tls13_signature(message, certificate, signed, algorithms)
    }

    fn supported_verify_schemes(&self) -> Vec<SignatureScheme> {
        self.provider.signature_verification_algorithms.supported_schemes()
    }
}
