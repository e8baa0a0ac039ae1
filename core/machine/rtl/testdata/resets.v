// Registers that levels set, clear and load while they count.
module top(input clk, input set, input clr, input load, output lamp, output [1:0] top_bits, output reg both);
  reg [16:0] n = 0;
  reg [16:0] from = 17'd77_777;
  always @(posedge clk or posedge load) if (load) n <= from; else n <= n + 1;
  always @(posedge clk) if (n[3:0] == 0) from <= from + 5;
  wire sets = set & clr; // or else a clear that ends while set is on is no edge to a simulator, and sets a real one
  always @(posedge clk or posedge sets or negedge clr)
    if (!clr) both <= 0; else if (sets) both <= 1; else both <= n[16];
  reg [9:0] slow = 0;
  always @(posedge n[9] or posedge load) if (load) slow <= 0; else slow <= slow + 1;
  assign lamp = n > 17'd100_000;
  assign top_bits = {slow[4], n[16]};
endmodule
