/** The kernel's layout file is shared with the host; these are its number types as TypeScript sees them. */
declare type usize = number;
declare type i32 = number;
