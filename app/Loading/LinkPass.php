<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Ledger\Links;
use App\Targets\SqlTarget;
use Baggage\Core\Loading\TargetUnavailable;

/** Sets deferred references whose parents have a target key by now. Setting one twice changes nothing. */
final readonly class LinkPass
{
    private const BATCH = 2000;

    public function __construct(private Links $links, private Definitions $definitions, private SqlTarget $target)
    {
    }

    /**
     * @return int references set
     *
     * @throws TargetUnavailable
     */
    public function run(): int
    {
        $made = 0;
        foreach ($this->definitions->loads() as $load) {
            foreach ($this->definitions->order()->deferredFields($load->entity->name) as $field) {
                $after = 0;
                while (($ready = $this->links->ready($load->id, $field, $after, self::BATCH)) !== []) {
                    $pairs = array_map(fn ($r) => [(string) $r->child, (string) $r->parent], $ready);
                    $this->target->setReference($load->entity->described(), $field, $pairs);
                    $this->links->made($load->id, $field, array_map(fn ($r) => (int) $r->row_no, $ready));
                    $after = (int) end($ready)->row_no;
                    $made += count($ready);
                }
            }
        }

        return $made;
    }
}
