<?php

// Shared by benchmarks that load parents and their children: makes the files and an empty target, and knows the same work as
// hand-written SQL, and writes their plan. Needs begin.php; leaves $options, $parents, $children, $harbour, $pdo, $empty, $processor
// and $reference.

$options = getopt('', ['scale:', 'seed:', 'workers:', 'random', 'back-out']);
$scale = (float) ($options['scale'] ?? 1);
$parents = max(10, (int) (100_000 * $scale));
$children = $parents * 10;

$random = new Random\Randomizer(new Random\Engine\Mt19937((int) ($options['seed'] ?? 7)));
$file = fopen("$folder/customer.csv", 'wb');
fwrite($file, "CUST_NO,CUST_NAME,KIND,TOWN\n");
for ($i = 1; $i <= $parents; $i++) {
    fwrite($file, sprintf("K%07d,Customer number %d,%s,Port %d\n", $i, $i, ['P', 'O', 'Q'][$i % 3], $i % 97));
}
fclose($file);
$file = fopen("$folder/bill.csv", 'wb');
fwrite($file, "BILL_NO,CUST_NO,BILL_DT,AMOUNT,STATUS\n");
for ($i = 1; $i <= $children; $i++) {
    fwrite(
        $file,
        sprintf(
            "B%08d,K%07d,%02d/%02d/%d,\"%s\",%s\n",
            // A permutation of 1 to 100,000,006: the modulus is prime.
            isset($options['random']) ? $i * 7_654_321 % 100_000_007 : $i,
            $random->getInt(1, $parents),
            ($i % 28) + 1,
            ($i % 12) + 1,
            1995 + ($i % 25),
            number_format(($i % 900000) / 100, 2),
            ['A', 'C', 'E'][$i % 3],
        ),
    );
}
fclose($file);

$pdo = new PDO(
    'mysql:host=127.0.0.1;port='.getenv('DB_PORT').';charset=utf8mb4',
    getenv('DB_USERNAME') ?: '',
    getenv('DB_PASSWORD') ?: '',
    [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION, PDO::MYSQL_ATTR_LOCAL_INFILE => true],
);
$harbour = (string) getenv('HARBOUR_OFFICE_DATABASE');
$other = str_replace('harbour_', 'other_', $harbour);
$empty = function (string $database) use ($pdo): void {
    $pdo->exec("CREATE OR REPLACE DATABASE $database CHARACTER SET utf8mb4");
    $pdo->exec(
        "CREATE TABLE $database.customer (id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, name VARCHAR(60) NOT "
            ."NULL, kind VARCHAR(12) NOT NULL, town VARCHAR(40) NULL, CHECK (kind IN ('person','organisation','office'))) ENGINE=InnoDB",
    );
    $pdo->exec(
        "CREATE TABLE $database.bill (id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, number VARCHAR(12) NOT "
            .'NULL UNIQUE, customer INT UNSIGNED NOT NULL, issued DATE NOT NULL, total DECIMAL(10,2) NOT NULL, '
            .'status VARCHAR(10) NOT NULL, FOREIGN KEY (customer) REFERENCES customer (id)) ENGINE=InnoDB',
    );
};
$empty($harbour);

/** The same work by hand: staging tables, INSERT … SELECT with joins, key crosswalks that also say what became of every row. */
$bySql = function () use ($pdo, $other, $folder, $empty): float {
    $empty($other);
    $start = microtime(true);
    $pdo->exec("USE $other");
    $pdo->exec(
        'CREATE TABLE st_customer (row_no INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, cust_no VARCHAR(20), '
            .'cust_name VARCHAR(200), kind VARCHAR(10), town VARCHAR(100), KEY (cust_no))',
    );
    $pdo->exec(
        'CREATE TABLE st_bill (row_no INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, bill_no VARCHAR(20), '
            .'cust_no VARCHAR(20), bill_dt VARCHAR(20), amount VARCHAR(20), status VARCHAR(10), KEY (bill_no))',
    );
    $pdo->exec(
        "CREATE TABLE code (kind CHAR(1) PRIMARY KEY, new VARCHAR(12)) SELECT 'P' AS kind, 'person' AS new UNION "
            ."SELECT 'O', 'organisation' UNION SELECT 'Q', 'office'",
    );
    $pdo->exec(
        "CREATE TABLE state (old CHAR(1) PRIMARY KEY, new VARCHAR(12)) SELECT 'A' AS old, 'open' AS new UNION "
            ."SELECT 'C', 'closed' UNION SELECT 'E', 'ended'",
    );
    $pdo->exec(
        'CREATE TABLE xw_customer (cust_no VARCHAR(20) NOT NULL PRIMARY KEY, new_id INT UNSIGNED NOT NULL, row_no '
            .'INT UNSIGNED NOT NULL, KEY (new_id))',
    );
    $pdo->exec(
        'CREATE TABLE xw_bill (bill_no VARCHAR(20) NOT NULL PRIMARY KEY, new_id INT UNSIGNED NOT NULL, row_no INT '
            .'UNSIGNED NOT NULL, KEY (new_id))',
    );
    foreach (
        ['customer' => '(cust_no, cust_name, kind, town)', 'bill' => '(bill_no, cust_no, bill_dt, amount, status)'] as $table => $columns
    ) {
        $pdo->exec(
            'LOAD DATA LOCAL INFILE '.$pdo->quote("$folder/$table.csv")
                ." INTO TABLE st_$table FIELDS TERMINATED BY ',' OPTIONALLY ENCLOSED BY '\"' IGNORE 1 LINES $columns",
        );
    }
    $pdo->exec('ALTER TABLE customer ADD legacy VARCHAR(20), ADD KEY (legacy)');
    $pdo->exec(
        'INSERT INTO customer (name, kind, town, legacy) SELECT s.cust_name, c.new, s.town, s.cust_no '
            .'FROM st_customer s JOIN code c ON c.kind = s.kind ORDER BY s.row_no',
    );
    $pdo->exec(
        'INSERT INTO xw_customer SELECT t.legacy, t.id, s.row_no FROM customer t JOIN st_customer s ON s.cust_no = t.legacy',
    );
    $pdo->exec('ALTER TABLE customer DROP COLUMN legacy');
    $pdo->exec("INSERT INTO bill (number, customer, issued, total, status)
        SELECT s.bill_no, x.new_id, STR_TO_DATE(s.bill_dt, '%d/%m/%Y'), CAST(REPLACE(s.amount, ',', '') AS DECIMAL(10,2)), c.new
        FROM st_bill s JOIN xw_customer x ON x.cust_no = s.cust_no JOIN state c ON c.old = s.status ORDER BY s.row_no");
    $pdo->exec(
        'INSERT INTO xw_bill SELECT t.number, t.id, s.row_no FROM bill t JOIN st_bill s ON s.bill_no = t.number',
    );

    return microtime(true) - $start;
};

/** Seconds of processor time: this process with those it started, and the server. */
$processor = function () use ($pdo): array {
    $use = [];
    foreach ([getrusage() ?: [], getrusage(1) ?: []] as $of) {
        foreach ($of as $name => $n) {
            $use[$name] = ($use[$name] ?? 0) + $n;
        }
    }
    $pid = (int) trim((string) file_get_contents((string) $pdo->query('SELECT @@pid_file')->fetchColumn()));
    $stat = explode(' ', (string) preg_replace('/^.*\) /', '', (string) file_get_contents("/proc/$pid/stat")));

    return [
        $use['ru_utime.tv_sec'] + $use['ru_stime.tv_sec'] + ($use['ru_utime.tv_usec'] + $use['ru_stime.tv_usec']) / 1e6,
        ($stat[11] + $stat[12]) / 100,
    ];
};
echo 'Parents ', number_format($parents), ', children ', number_format($children), PHP_EOL;
$reference = function () use ($bySql, $processor): array {
    [$p0, $s0] = $processor();
    $clock = $bySql();
    [$p1, $s1] = $processor();
    printf("hand-written SQL   %7.1f s, %.1f s of processor time\n", $clock, $p1 - $p0 + $s1 - $s0);

    return [$clock, $p1 - $p0 + $s1 - $s0];
};
file_put_contents(
    "$folder/plan.yaml",
    <<<YAML
    baggage: 1
    migration: Bench
    target:
      application: bench
      connections:
        - {name: bench, host: 127.0.0.1, port: "\${HARBOUR_OFFICE_PORT}", database: $harbour, username: harbour,
           password_env: HARBOUR_OFFICE_PASSWORD}
    sources: [{code: L, name: Legacy, extracts: [{name: customer, file: customer.csv}, {name: bill, file: bill.csv}]}]
    code_crosswalks:
      - {name: kinds, entries: {P: person, O: organisation, Q: office}}
      - {name: states, entries: {A: open, C: closed, E: ended}}
    loads:
      - name: Customers
        entity: customer
        from: L/customer
        key: [cust_no]
        fields: {name: trim(cust_name), kind: "code('kinds', kind)", town: trim(town)}
      - name: Bills
        entity: bill
        from: L/bill
        key: [bill_no]
        fields:
          number: trim(bill_no)
          customer: parent(cust_no)
          issued: date(bill_dt, 'd/m/Y')
          total: decimal(amount, '.')
          status: code('states', status)
    YAML
    ,
);
