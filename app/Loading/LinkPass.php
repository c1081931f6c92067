<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Models\Pass;
use App\Targets\SqlTarget;
use App\Targets\TargetLink;
use Baggage\Core\Loading\TargetUnavailable;
use Illuminate\Support\Facades\DB;
use PDOException;

/** Sets deferred references whose parents have a target key by now. Setting one twice changes nothing. */
final class LinkPass
{
    private const BATCH = 2000;

    public function __construct(
        private readonly Pass $pass,
        private readonly Definitions $definitions,
        private readonly TargetLink $link,
    ) {
    }

    /** @return int references set */
    public function run(): int
    {
        $made = 0;
        foreach ($this->definitions->loads() as $load) {
            foreach ($this->definitions->order()->deferredFields($load->entity->name) as $field) {
                $after = 0;
                do {
                    $rows = DB::select(
                        "SELECT l.row_no, l.target_key AS child, p.target_key AS parent FROM links l
                        JOIN outcomes p ON p.round_id = l.round_id AND p.entity_id = l.parent_entity_id AND p.source_id = l.parent_source_id
                            AND p.legacy_key = l.parent_key AND p.twin = 0
                        WHERE l.round_id = ? AND l.state = 'waiting' AND l.load_id = ? AND l.field = ? AND l.row_no > ?
                        ORDER BY l.row_no LIMIT ".self::BATCH,
                        [$this->pass->round_id, $load->id, $field, $after],
                    );
                    if ($rows === []) {
                        break;
                    }
                    $entity = $load->entity->described();
                    $this->set($entity->name, $entity->key, $field, $rows);
                    $after = (int) end($rows)->row_no;
                    DB::table('links')
                        ->where('round_id', $this->pass->round_id)
                        ->where('load_id', $load->id)
                        ->where('field', $field)
                        ->whereIntegerInRaw('row_no', array_map(fn ($r) => (int) $r->row_no, $rows))
                        ->update(['state' => 'made']);
                    $made += count($rows);
                } while (count($rows) === self::BATCH);
            }
        }

        return $made;
    }

    /** @param  array<int, object{row_no: int, child: string, parent: string}&\stdClass>  $rows */
    private function set(string $table, string $key, string $field, array $rows): void
    {
        $pdo = $this->link->pdo();
        $first = $rows[array_key_first($rows)];
        $pairs = $pdo->quote($first->child).' AS child,'.$pdo->quote($first->parent).' AS parent';
        foreach (array_slice($rows, 1) as $row) {
            $pairs .= ' UNION ALL SELECT '.$pdo->quote($row->child).','.$pdo->quote($row->parent);
        }
        try {
            $pdo->exec(
                'UPDATE '.SqlTarget::name($table)." t JOIN (SELECT $pairs) x ON t.".SqlTarget::name($key)
                    .' = x.child SET t.'.SqlTarget::name($field).' = x.parent',
            );
        } catch (PDOException $e) {
            throw new TargetUnavailable("The references $table.$field could not be set: ".$e->getMessage(), 0, $e);
        }
    }
}
