<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Targets\Entity;

/** What others changed in a record since it was sent. */
final class OthersChanges
{
    /**
     * @param  list<string>  $deferred  fields whose parents come later, which say nothing of others
     * @param  array<string, string|null>  $sent  the record as it was sent
     * @param  array<string, string|null>  $now  as it is
     * @param  array<string, string|null>  $next  as it is about to be sent: what somebody entered already is nothing to tell
     * @return list<string> fields that say something else than was sent
     */
    public static function fields(Entity $entity, array $deferred, array $sent, array $now, array $next = []): array
    {
        $others = [];
        foreach ($sent as $field => $value) {
            $value ??= $entity->fields[$field]->default ?? null;
            $is = $now[$field] ?? null;
            if (! in_array($field, $deferred, true) && $is !== $value && ! (array_key_exists($field, $next) && $next[$field] === $is)) {
                $others[] = $field;
            }
        }

        return $others;
    }
}
