<?php

namespace App\Reading\Http;

use App\Models\Connection;
use App\Reading\Database\Login;
use App\Reading\Database\Reach;
use Baggage\Core\Reading\Database\AddressError;
use Baggage\Core\Reading\Http\HttpFormat;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\Nested\JsonRecords;
use Baggage\Core\Reading\Nested\JsonScanner;
use Baggage\Core\Reading\Nested\Records;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Http\Client\ConnectionException;
use Illuminate\Http\Client\Response;
use Illuminate\Support\Facades\Http;

/**
 * The records of a service, page after page. The pages are kept in a temporary file while they are gone through, so that a second
 * walk sees what the first one saw.
 */
final class HttpPages implements Records
{
    private const TRIES = 4;

    /** @var resource|null */
    private $kept = null;

    private bool $whole = false;

    /** @var array<string, string> */
    private array $headers = [];

    /** Where its host was found to be. */
    private string $pin = '';

    /** @param  int|null  $limit  pages at most, for a preview */
    public function __construct(
        private readonly Connection $connection,
        private readonly HttpFormat $format,
        private readonly ?int $limit = null,
    ) {
    }

    public function each(): \Generator
    {
        $number = 0;
        foreach ($this->whole ? $this->again() : $this->fetched() as $json) {
            yield ++$number => JsonRecords::record($json, $number);
        }
    }

    /** @return \Generator<string> */
    private function fetched(): \Generator
    {
        $this->kept = fopen('php://temp/maxmemory:4194304', 'w+b') ?: null;
        $base = $this->login();
        $address = $this->format->paging->begin(
            $base.($this->format->path === '' ? '' : '/'.ltrim($this->format->path, '/')),
        );
        $seen = [];
        for ($page = 1; $address !== null; $page++) {
            if (isset($seen[$address]) || $page > Limits::now()->pages) {
                throw ReadingError::broken(
                    "Page $page leads back to one that was read already ($address): is the paging right?",
                );
            }
            $seen[$address] = true;
            $answer = $this->get($address, $page);
            $body = $this->body($answer, $address, $page);
            $records = yield from $this->records($body, $address, $page);
            $next = $this->format->paging->after(
                $address,
                $answer->header('Link'),
                (array) json_decode($body, true),
                $records,
            );
            if ($next !== null && $this->limit === $page) {
                return;
            }
            // The key must not travel to another host.
            if ($next !== null && self::server($next) !== self::server($base)) {
                throw ReadingError::broken(
                    "Page $page names a next page on another host ($next), where the connection's headers are not sent.",
                );
            }
            $address = $next;
        }
        $this->whole = true;
    }

    /** Takes the headers of the connection; the address it goes to. */
    private function login(): string
    {
        try {
            $login = Login::through($this->connection);
        } catch (AddressError $e) {
            throw ReadingError::broken($e->getMessage());
        }
        $this->headers = self::headers($login->headers());
        $this->pin = self::pin($login->address->host);

        return $login->address->host;
    }

    /** @return string as libcurl takes it: what the name was found to be */
    private static function pin(string $address): string
    {
        $parts = parse_url($address) ?: [];
        $host = trim($parts['host'] ?? '', '[]');
        $port = $parts['port'] ?? (($parts['scheme'] ?? '') === 'https' ? 443 : 80);
        try {
            return "$host:$port:".Reach::ip($host, $port);
        } catch (AddressError $e) {
            throw ReadingError::broken($e->getMessage());
        }
    }

    private function body(Response $answer, string $address, int $page): string
    {
        $body = $answer->body();
        if (preg_match('/^\s*</', $body) === 1) {
            throw ReadingError::broken(
                "The service at $address answers with a web page or XML, not with JSON. Does it want a login?",
            );
        }

        return $body;
    }

    /** @return \Generator<int, string, mixed, int> the records of a page; how many there were */
    private function records(string $body, string $address, int $page): \Generator
    {
        $path = $this->format->records === '' ? [] : explode('.', $this->format->records);
        $records = 0;
        try {
            foreach (JsonScanner::of([$body])->records($path) as $json) {
                if ($this->kept !== null) {
                    fwrite($this->kept, pack('N', strlen($json)).$json);
                }
                $records++;
                yield $json;
            }
        } catch (ReadingError $e) {
            throw ReadingError::broken("Page $page ($address): {$e->getMessage()}");
        }

        return $records;
    }

    /** @return \Generator<string> */
    private function again(): \Generator
    {
        if ($this->kept === null) {
            return;
        }
        rewind($this->kept);
        while (($length = fread($this->kept, 4)) !== false && strlen($length) === 4) {
            yield (string) stream_get_contents($this->kept, (int) (unpack('N', $length)[1] ?? 0));
        }
    }

    private function get(string $address, int $page): Response
    {
        for ($try = 1; ; $try++) {
            try {
                $answer = Http::withHeaders($this->headers)
                    ->withOptions(['curl' => [CURLOPT_RESOLVE => [$this->pin]], 'proxy' => ''])
                    ->acceptJson()
                    ->connectTimeout(5)
                    ->timeout(60)
                    ->withoutRedirecting()
                    ->sink(PageBody::of($page, Limits::now()->part))
                    ->get($address);
            } catch (ConnectionException $e) {
                if ($try < self::TRIES) {
                    usleep(200_000 * 2 ** $try);

                    continue;
                }
                throw ReadingError::broken(
                    "No service answers at $address. Is it running, and may this machine reach it? ("
                        .mb_substr($e->getMessage(), 0, 150).')',
                );
            }
            $busy = in_array($answer->status(), [408, 425, 429], true) || $answer->serverError();
            if ($try === self::TRIES || ! $busy) {
                return $answer->successful() ? $answer : throw self::refused($answer, $address, $page);
            }
            $wait = ctype_digit($answer->header('Retry-After'))
                ? (int) $answer->header('Retry-After') * 1_000_000 + 50_000
                : 200_000 * 2 ** $try;
            usleep(min(10_000_000, $wait));
        }
    }

    private static function refused(Response $answer, string $address, int $page): ReadingError
    {
        $status = $answer->status();

        return ReadingError::broken(
            match (true) {
                in_array($status, [401, 403], true) => "The service at $address refuses (status $status): "
                    .'the key in the connection\'s headers is wrong or missing.',
                $answer->redirect() => "The service at $address sends elsewhere, to {$answer->header('Location')}. "
                    .'Put that address into the connection.',
                $status === 404 => "There is nothing at $address (status 404). Is the path right?",
                default => "The service at $address answers with status $status on page $page.",
            },
        );
    }

    private static function server(string $address): string
    {
        $parts = parse_url($address) ?: [];
        $scheme = strtolower($parts['scheme'] ?? '');

        return "$scheme://".strtolower($parts['host'] ?? '').':'
            .($parts['port'] ?? ($scheme === 'https' ? 443 : 80));
    }

    /** @return array<string, string> */
    private static function headers(string $lines): array
    {
        $headers = [];
        foreach (preg_split('/\R/', $lines) ?: [] as $line) {
            if (preg_match('/^\s*([A-Za-z0-9-]+)\s*:\s*(.+?)\s*$/', $line, $m) === 1) {
                $headers[$m[1]] = $m[2];
            }
        }

        return $headers;
    }
}
