<?php

namespace App\Plans;

use App\Looking\Looker;
use App\Looking\LookGoing;
use App\Looking\Looks;
use Baggage\Core\Plan\Mistake;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanFile;
use Baggage\Core\Plan\PlanReader;
use Baggage\Core\Reading\ReadingError;

/** Reads a plan somebody sent in a process of its own. */
final class PlanLook implements Looker
{
    /**
     * @param  array{path?: string, text?: string}  $of
     *
     * @throws PlanError|LookGoing
     */
    public static function at(array $of, string $name): PlanFile
    {
        try {
            $read = Looks::ask(self::class, $of + ['name' => $name]);
        } catch (ReadingError $e) {
            throw PlanError::at($name, null, $e->getMessage());
        }

        if (isset($read['mistakes'])) {
            throw PlanError::of(array_map(Mistake::fromArray(...), $read['mistakes']));
        }

        return PlanFile::fromArray($read);
    }

    public static function look(array $given): mixed
    {
        try {
            return (new PlanReader)->read($given['text'] ?? (string) file_get_contents($given['path']), $given['name'])->toArray();
        } catch (PlanError $e) {
            return ['mistakes' => array_map(fn (Mistake $m) => $m->toArray(), $e->mistakes)];
        }
    }
}
