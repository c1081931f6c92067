<?php

namespace App\Staging;

use App\Models\Take;
use Baggage\Core\Profiling\ColumnFacts;
use Baggage\Core\Profiling\TableProfile;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Reading\RowList;
use Illuminate\Support\Facades\DB;
use PDO;

/** Finds the rows of findings that are only known once the whole column is: one more walk through the take, and only when needed. */
final class FindingRows
{
    public function __construct(private readonly Take $take)
    {
    }

    /**
     * @param  list<Remark>  $findings
     * @param  list<ColumnFacts>  $facts
     * @return list<Remark>
     */
    public function complete(array $findings, array $facts): array
    {
        foreach ($findings as $i => $f) {
            if ($f->inLines && $f->rows !== []) {
                $rows = DB::table('staged_rows')->where('take_id', $this->take->id)->whereIntegerInRaw('line', $f->rows)->orderBy('row_no')->pluck('row_no')->map(intval(...))->all();
                $findings[$i] = new Remark($f->code, $f->message, $f->count, $rows, $f->column);
            }
        }
        $lengths = [];
        foreach ($findings as $i => $f) {
            if ($f->code === 'lost_zeros' && $f->column !== null) {
                $lengths[$i] = [$f->column, TableProfile::usualLength($facts[$f->column])[0], new RowList];
            }
        }
        if ($lengths === []) {
            return $findings;
        }
        for ($after = 0; ; $after = (int) $row[0]) {
            $rows = DB::connection()->getPdo()->query("SELECT row_no, cells FROM staged_rows WHERE take_id = {$this->take->id} AND row_no > $after ORDER BY row_no LIMIT 20000");
            $all = $rows === false ? [] : $rows->fetchAll(PDO::FETCH_NUM);
            if ($all === []) {
                break;
            }
            foreach ($all as $row) {
                $cells = json_decode($row[1], true);
                foreach ($lengths as [$column, $usual, $list]) {
                    $cell = trim((string) ($cells[$column] ?? ''));
                    if ($cell !== '' && strlen($cell) < $usual && ctype_digit($cell)) {
                        $list->add((int) $row[0]);
                    }
                }
            }
        }
        foreach ($lengths as $i => [$column, , $list]) {
            $findings[$i] = new Remark('lost_zeros', $findings[$i]->message, $list->count, $list->rows, $column);
        }

        return $findings;
    }
}
