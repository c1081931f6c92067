<?php

namespace Tests\Core;

use Baggage\Core\Reading\Query\SelectOnly;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** FS12: what may be run on a source. Whatever a server may take for code is looked at as code. */
final class SelectTest extends TestCase
{
    /** @return iterable<array{string}> */
    public static function harmless(): iterable
    {
        yield ['SELECT 1'];
        yield ["select * from t where note = 'please update; then delete /*! it */ -- now'"];
        yield ['SELECT `update`, `in``to` FROM `delete`'];
        yield ['SELECT "insert" FROM "drop table"'];
        yield ['SELECT [update], [call me] FROM [dbo].[order lines]'];
        yield ["SELECT REPLACE(name, 'a', 'b') FROM t"];
        yield ['WITH a AS (SELECT 1 AS n), b AS (SELECT n FROM a) SELECT * FROM b;'];
        yield ["SELECT 1 -- update it\n, 2"];
        yield ['SELECT 1 /* drop; table */ , 2'];
        yield ['SELECT 1 /* a /* b */ c */ , 2'];
        yield ["SELECT * FROM calls WHERE call_type = 'x' AND last_update > :since"];
        yield ["SELECT updated, created, deleted FROM t WHERE name LIKE 'D''Arcy%'"];
        yield ["SELECT 'it\\'s an update; really' AS x"];
        yield ["SELECT 'a\\' AS backslash, 'b' AS other"];
        yield ['(SELECT 1) UNION (SELECT 2)'];
        yield ['SELECT sleep, benchmark FROM patients'];
        yield ['SELECT a /* no hint */ FROM t WHERE (set_no = 1)'];
        yield ['SELECT arr[1], arr[n] FROM t'];
    }

    #[DataProvider('harmless')]
    public function test_harmless_text_is_let_be(string $sql): void
    {
        self::assertNull(SelectOnly::refuses($sql), (string) SelectOnly::refuses($sql));
    }

    /** @return iterable<array{string}> */
    public static function others(): iterable
    {
        yield ['DELETE FROM t'];
        yield [''];
        yield ['SELECT 1; DROP TABLE t'];
        // Executable comments of MySQL and MariaDB; FS12.
        yield ["SELECT 1 /*!INTO OUTFILE '/tmp/x'*/"];
        yield ["SELECT 1 /*!50000INTO OUTFILE '/tmp/x'*/"];
        yield ["SELECT 1 /*M!100100 INTO OUTFILE '/tmp/x'*/"];
        yield ["SELECT 1 INTO OUTFILE '/tmp/x'"];
        yield ["SELECT 1 INTO\nDUMPFILE '/tmp/x'"];
        yield ['SELECT * INTO copy FROM t'];
        yield ['SELECT 1 INTO @a'];
        // A comment to one server, code to another.
        yield ["SELECT 1--1 INTO OUTFILE '/tmp/x'"];
        yield ["SELECT 1 # '\n INTO OUTFILE '/tmp/x' -- '"];
        yield ["SELECT 1 /* /* */ INTO OUTFILE '/tmp/x' -- */ */"];
        yield ["SELECT 'a\\' INTO OUTFILE '/tmp/x' -- '"];
        yield ["SELECT 'a\\'', load_file('/etc/passwd'), '' -- '"];
        yield ['SELECT "a\\" INTO OUTFILE \'/x\' -- "'];
    }

    /** @return iterable<array{string}> */
    public static function further(): iterable
    {
        yield ['WITH x AS (DELETE FROM t RETURNING *) SELECT * FROM x'];
        yield ['WITH x AS (SELECT 1) DELETE FROM t'];
        yield ['WITH x AS (SELECT 1) UPDATE t SET a = 1'];
        yield ['WITH x AS ( insert  into t values (1) returning *) SELECT * FROM x'];
        yield ['SELECT * FROM t FOR UPDATE'];
        yield ["SELECT * FROM t FOR NO KEY\tUPDATE"];
        yield ['SELECT * FROM t LOCK IN SHARE MODE'];
        yield ['SELECT * FROM t WITH (UPDLOCK)'];
        yield ["SELECT load_file ('/etc/passwd')"];
        yield ["SELECT GET_LOCK('x', 9)"];
        yield ['SELECT sleep(45)'];
        yield ['SELECT pg_sleep (45)'];
        yield ["SELECT pg_read_file('/etc/passwd')"];
        yield ["SELECT nextval('s')"];
        yield ["SELECT * FROM dblink('host=x', 'delete from t') AS t(a int)"];
        yield ["SELECT * FROM OPENROWSET('x', 'y', 'z')"];
        yield ["SELECT load_extension('/tmp/x.so')"];
        yield ['SELECT 1 /* not closed'];
        yield ["SELECT 'not closed"];
        yield ["SELECT 1\0"];
    }

    #[DataProvider('others')]
    #[DataProvider('further')]
    public function test_what_changes_waits_or_reaches_elsewhere_is_refused(string $sql): void
    {
        self::assertNotNull(SelectOnly::refuses($sql));
    }

    /** However long: no pattern may give up and so let it through. */
    public function test_long_texts_are_read_to_their_end(): void
    {
        $long = str_repeat("'a''b', ", 12_000);
        self::assertNull(SelectOnly::refuses("SELECT {$long}1"));
        self::assertNotNull(SelectOnly::refuses("SELECT {$long}1 INTO OUTFILE '/x'"));
        $string = str_repeat("x''", 33_000);
        self::assertNull(SelectOnly::refuses("SELECT '$string'"));
        self::assertNotNull(SelectOnly::refuses("SELECT '$string' INTO OUTFILE '/x'"));
        self::assertNotNull(SelectOnly::refuses('SELECT 1 '.str_repeat('/*', 40_000).' INTO OUTFILE'));
        self::assertNotNull(SelectOnly::refuses('SELECT '.str_repeat('1,', 60_000).'1'));
    }
}
