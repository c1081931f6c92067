<?php

namespace App\View;

use App\Files\FileBook;
use App\Models\ClientFile;
use App\Models\Work;

/** A file for the client as it is opened: what it is about, where it is, what came back. */
final readonly class FileOpened
{
    private function __construct(private Page $page, private ClientFile $file)
    {
    }

    public static function of(Page $page, ClientFile $file): self
    {
        return new self($page, $file);
    }

    /** @return array<string, mixed> */
    public function data(): array
    {
        $work = $this->file->work_id === null ? null : Work::query()->find($this->file->work_id);
        if ($work !== null && ! $work->isGoing()) {
            $work->update(['seen' => true]);
        }

        return [
            'page' => $this->page,
            'file' => $this->file,
            'work' => $work,
            'others' => FileBook::others($this->file),
            'answers' => $this->file->answers()->with('user')->latest('id')->get(),
            'names' => $this->page->all()->whereIn('id', $this->file->loads)->pluck('name')->all(),
        ];
    }
}
