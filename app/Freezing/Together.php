<?php

namespace App\Freezing;

use App\Models\Extract;
use App\Models\Source;
use App\Reading\Part;
use Baggage\Core\Reading\ReaderSettings;

/** Files that were dropped at once: previewed one after the other, frozen together or not at all. */
final readonly class Together
{
    /** @param  array<string, array<string, mixed>>  $files  id → as Incoming::find() gives it */
    private function __construct(public array $files)
    {
    }

    /** @param  list<string>  $ids */
    public static function of(Incoming $incoming, array $ids): self
    {
        $files = [];
        foreach ($ids as $id) {
            $files[$id] = $incoming->find($id);
        }

        return new self(array_filter($files));
    }

    /**
     * What they would be frozen as: all tables of them that can be read.
     *
     * @return list<array{file: string, part: Part, extract: Extract, settings: ReaderSettings}>
     *
     * @throws \DomainException when one is still being looked into, two would be the same extract, or one is being read
     */
    public function plan(Source $source): array
    {
        $plan = $seen = [];
        foreach ($this->files as $id => $kept) {
            if ($kept['parts'] === []) {
                throw new \DomainException("$kept[name] is still being looked into. Wait a moment, then freeze them.");
            }
            $next = NextDelivery::of($source, $kept['name'], $kept['parts'], $kept['decided']);
            foreach ($next->tables as ['part' => $part, 'extract' => $extract, 'settings' => $settings]) {
                $name = $extract->name;
                $other = $seen[mb_strtolower($name)] ?? null;
                if ($other !== null) {
                    throw new \DomainException("$kept[name] and $other would both be the extract $name. Give one of them another name.");
                }
                if ($extract->isBeingRead()) {
                    throw new \DomainException("The extract $name is being read right now.");
                }
                $seen[mb_strtolower($name)] = $kept['name'];
                $plan[] = ['file' => (string) $id, 'part' => $part, 'extract' => $extract, 'settings' => $settings];
            }
        }

        return $plan;
    }

    /** What of them is not frozen, in words; empty where all is. */
    public function leaves(Source $source): string
    {
        $says = [];
        foreach ($this->files as $kept) {
            $said = NextDelivery::of($source, $kept['name'], $kept['parts'], $kept['decided'])->says();
            $says[] = $said === '' ? '' : " $kept[name]:$said";
        }

        return implode('', $says);
    }

    /** The file after this one, or null where it is the last. */
    public function after(string $id): ?string
    {
        $ids = array_map(strval(...), array_keys($this->files));

        return $ids[(int) array_search($id, $ids, true) + 1] ?? null;
    }
}
