<?php

// php sql-server-peer.php PORT: as much of a SQL Server as a reader sees of one, for tests of the dblib driver. It speaks the Tabular
// Data Stream protocol of [MS-TDS] (pre-login 2.2.6.5, LOGIN7 2.2.6.4, SQL batch 2.2.6.7, COLMETADATA 2.2.7.4, ROW 2.2.7.19, ERROR
// 2.2.7.10, DONE 2.2.7.6) and answers from an SQLite database in memory. User "reader", password "Sound-7!", database "yard".

$db = new PDO('sqlite::memory:', null, null, [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION]);
$db->exec("ATTACH ':memory:' AS INFORMATION_SCHEMA");
$db->exec(
    'CREATE TABLE INFORMATION_SCHEMA.TABLES (TABLE_NAME, TABLE_SCHEMA, TABLE_TYPE); INSERT INTO '
        ."INFORMATION_SCHEMA.TABLES VALUES ('jobs', 'dbo', 'BASE TABLE'), ('open jobs', 'dbo', 'VIEW')",
);
$db->exec(
    'CREATE TABLE jobs (no TEXT, who TEXT, hours TEXT, done TEXT); INSERT INTO jobs '
        ."VALUES ('0001', 'Bjørn Åse', '12.50', NULL), ('0002', 'Łukasz 日本', '', '2003-02-28'), ('0003', "
        ."'O''Neil; --', '-1.00', '1999-12-31')",
);
$db->exec('CREATE VIEW [open jobs] AS SELECT * FROM jobs WHERE done IS NULL');

$wide = fn (string $s) => mb_convert_encoding($s, 'UTF-16LE', 'UTF-8');
$short = fn (string $s) => chr(mb_strlen($s)).$wide($s);
$done = fn (int $status = 0, int $rows = 0) => "\xFD".pack('vvP', $status, 0, $rows);
$error = function (int $number, string $text) use ($wide, $short): string {
    $body = pack('VCC', $number, 1, 14).pack('v', mb_strlen($text)).$wide($text).$short('yard-server').$short('')
        .pack('V', 1);

    return "\xAA".pack('v', strlen($body)).$body;
};
$select = function (string $sql) use ($db, $wide, $short, $done, $error): string {
    try {
        $statement = $db->query($sql);
        $out = "\x81".pack('v', $statement->columnCount());
        for ($i = 0; $i < $statement->columnCount(); $i++) {
            $out .= pack('Vv', 0, 9)."\xE7".pack('v', 8000)."\x09\x04\xD0\x00\x34"
                .$short($statement->getColumnMeta($i)['name']);
        }
        for ($n = 0; ($row = $statement->fetch(PDO::FETCH_NUM)); $n++) {
            $out .= "\xD1";
            foreach ($row as $cell) {
                $out .= $cell === null ? "\xFF\xFF" : pack('v', strlen($wide((string) $cell))).$wide((string) $cell);
            }
        }

        return $out.$done(0x10, $n);
    } catch (PDOException $e) {
        return $error(208, 'Invalid object name: '.$e->getMessage()).$done(2);
    }
};
$server = stream_socket_server("tcp://127.0.0.1:$argv[1]");
fwrite(STDOUT, "ready\n");
pcntl_signal(SIGCHLD, SIG_IGN);
while ($peer = @stream_socket_accept($server, 60)) {
    if (pcntl_fork() > 0) {
        continue;
    }
    $take = fn (int $n) => $n === 0 ? '' : (string) stream_get_contents($peer, $n);
    $reply = function (string $body) use ($peer): void {
        foreach ($parts = str_split($body, 4000) as $i => $part) {
            fwrite($peer, pack('CCnnCC', 4, $i === count($parts) - 1 ? 1 : 0, strlen($part) + 8, 0, 1, 0).$part);
        }
    };
    for ($message = ''; strlen($head = $take(8)) === 8;) {
        ['type' => $type, 'status' => $status, 'length' => $length] = unpack('Ctype/Cstatus/nlength', $head);
        $message .= $take($length - 8);
        if (($status & 1) === 0) {
            continue;
        }
        if ($type === 0x12) {
            // VERSION, ENCRYPTION (2: not supported), end of options.
            $reply(
                "\x00".pack('nn', 11, 6)."\x01".pack('nn', 17, 1)."\xFF"."\x0B\x00\x0C\x38\x00\x00"."\x02",
            );
        } elseif ($type === 0x10) {
            $text = function (int $at) use ($message): string {
                ['from' => $from, 'n' => $n] = unpack('vfrom/vn', substr($message, $at, 4));

                return substr($message, $from, $n * 2);
            };
            $password = '';
            foreach (str_split($text(44)) as $byte) {
                $plain = ord($byte) ^ 0xA5;
                $password .= chr((($plain << 4) | ($plain >> 4)) & 0xFF);
            }
            $narrow = fn (string $s) => mb_convert_encoding($s, 'UTF-8', 'UTF-16LE');
            if ($narrow($text(40)) !== 'reader' || $narrow($password) !== 'Sound-7!') {
                $reply($error(18456, "Login failed for user '".$narrow($text(40))."'.").$done(2));
            } elseif ($narrow($text(68)) !== '' && $narrow($text(68)) !== 'yard') {
                $reply(
                    $error(
                        4060,
                        'Cannot open database "'.$narrow($text(68)).'" requested by the login. The login failed.',
                    ).$done(2),
                );
            } else {
                $body = "\x01".strrev(substr($message, 4, 4)).$short('Peer').pack('N', 0x0B000000);
                $reply("\xAD".pack('v', strlen($body)).$body.$done());
            }
        } elseif ($type === 0x01) {
            $sql = mb_convert_encoding(substr($message, unpack('V', $message)[1]), 'UTF-8', 'UTF-16LE');
            $reply(
                match (true) {
                    preg_match('/^\s*use\s+\W?(?!yard\b)\w/i', $sql) === 1 => $error(
                        911,
                        'Cannot open database: it does not exist.',
                    ).$done(2),
                    preg_match('/^\s*(select|with)\b/i', $sql) === 1 => $select(str_replace("N'", "'", $sql)),
                    default => $done(),
                },
            );
        } else {
            // Attention (2.2.1.7): what was asked is given up.
            $reply($done(0x20));
        }
        $message = '';
    }
    exit();
}
